import { describe, expect, it } from 'vitest';
import { ZipFile } from 'yazl';
import { WaveFile } from 'wavefile';
import { newSession, newStrip } from '@core/session/defaults';
import { flacEncoder, littleEndian } from '@core/testing/flacFile';
import { filesWithin, isPackage } from './filesWithin';
import { stemFiles } from './saveStems';
import { nameStems } from './nameStems';
import { secondsLeft } from './progress';

/** By the browser's own: Web Cryptography API. */
async function sha256(...parts: (string | Uint8Array)[]) {
  const all = new Blob(parts.map((p) => (typeof p === 'string' ? p : p.slice())));
  const hash = new Uint8Array(await crypto.subtle.digest('SHA-256', await all.arrayBuffer()));
  return `sha256:${[...hash].map((b) => b.toString(16).padStart(2, '0')).join('')}`;
}
const ramp = (frames: number) => Int32Array.from({ length: frames }, (_, i) => ((i * 7919) % 65536) - 32768);
const wave = (channels: number[][], rate = 48000) => {
  const wav = new WaveFile();
  wav.fromScratch(channels.length, rate, '16', channels.length === 1 ? channels[0]! : channels);
  return new Blob([wav.toBuffer() as Uint8Array<ArrayBuffer>]);
};

// The name of a stem: SHA-256 of what says how its samples stand, and of them.
describe('a file’s stems are named before it is sent', () => {
  it('by their samples, more than a piece of them, whatever kind of file holds them', async () => {
    const samples = ramp(3_000_000);
    const wanted = await sha256('zonula-pcm 48000 1 s16\n', littleEndian(samples, 2));
    const read: number[] = [];
    const file = wave([[...samples]]);
    expect(await nameStems(file, 48000, false, (bytes) => read.push(bytes))).toEqual([
      { stem: wanted, channels: 1, place: null },
    ]);
    expect(read.at(-1)).toBe(file.size);
    const flac = (await flacEncoder())(samples);
    expect((await nameStems(new Blob([new Uint8Array(flac)]), 48000, false))![0]!.stem).toBe(wanted);
  });
  it('each of a file of four channels', async () => {
    const samples = [...ramp(1000)];
    const [one, two] = await Promise.all([
      nameStems(wave([samples]), 48000, false),
      nameStems(wave([samples, samples, samples, samples]), 48000, false),
    ]);
    expect(two!.map((s) => s.place)).toEqual(['1', '2', '3', '4']);
    expect(new Set(two!.map((s) => s.stem))).toEqual(new Set([one![0]!.stem]));
  });
  it('and those of another rate are not, as they are converted first', async () => {
    expect(await nameStems(wave([[1, 2, 3]], 44100), 48000, false)).toBeNull();
  });
  it('and what is no audio, or cut off, is refused before it is sent', async () => {
    await expect(nameStems(new Blob(['Dear Sir, this is no sound']), 48000, false)).rejects.toThrow(
      /not a WAV/,
    );
    await expect(nameStems(new Blob([]), 48000, false)).rejects.toThrow(/empty/);
    const cut = wave([[...ramp(500)]]).slice(0, 700);
    await expect(nameStems(cut, 48000, false)).rejects.toMatchObject({ rule: 'cut' });
    const frames = Math.floor((700 - 44) / 2);
    expect((await nameStems(cut, 48000, true))![0]!.stem).toBe(
      await sha256('zonula-pcm 48000 1 s16\n', littleEndian(ramp(500).subarray(0, frames), 2)),
    );
  });
});

describe('files that were given', () => {
  const zip = async (names: Record<string, string>, compress = true) => {
    const file = new ZipFile();
    for (const [name, text] of Object.entries(names)) file.addBuffer(Buffer.from(text), name, { compress });
    file.end();
    const parts: Buffer[] = [];
    for await (const part of file.outputStream) parts.push(part as Buffer);
    return new File([Buffer.concat(parts)], 'stems.zip');
  };
  const inFolder = (path: string) => {
    const file = new File(['x'], path.replace(/^.*\//, ''));
    Object.defineProperty(file, 'webkitRelativePath', { value: path });
    return file;
  };
  it('are those of a folder that are audio, and what was given by itself whatever it is', async () => {
    const found = await filesWithin([
      ...[inFolder('Take 2/Skin.wav'), inFolder('Take 2/notes.txt'), inFolder('Take 2/more/Rim.FLAC')],
      ...[inFolder('Take 2/.hidden.wav'), inFolder('Take 2/Thumbs.db'), new File(['y'], 'letter.txt')],
    ]);
    expect(found.map((f) => f.name)).toEqual(['Skin.wav', 'Rim.FLAC', 'letter.txt']);
  });
  it.each([true, false])('a ZIP file stands for the audio in it, compressed: %s', async (compress) => {
    const file = await zip(
      {
        'Stems/Skin.wav': 'skin'.repeat(500),
        'Stems/read me.txt': 'no',
        '__MACOSX/Stems/._Skin.wav': 'no',
        'Pulse.aif': 'pulse',
      },
      compress,
    );
    const found = await filesWithin([file]);
    expect(found.map((f) => [f.name, f.size])).toEqual([
      ['Skin.wav', 2000],
      ['Pulse.aif', 5],
    ]);
    expect(await (await found[0]!.file()).text()).toBe('skin'.repeat(500));
    expect(await isPackage(file)).toBe(false);
    expect(await isPackage(await zip({ 'session.json': '{}' }))).toBe(true);
  });
  it('a ZIP file that is none, or damaged inside, is told by name', async () => {
    const none = new File(['PK no'], 'none.zip');
    expect((await filesWithin([none])).map((f) => f.name)).toEqual(['none.zip']);
    const good = new Uint8Array(await (await zip({ 'Skin.wav': 'skin'.repeat(500) }, false)).arrayBuffer());
    good[100]! ^= 1;
    const [found] = await filesWithin([new File([good], 'bad.zip')]);
    await expect(found!.file()).rejects.toThrow();
  });
});

it('stems of picked strips are saved once each, by the first strip’s name, and only of those that have one', () => {
  const strip = (id: string, name: string, stem: string | null) =>
    newStrip({ id, name, stem, kind: 'source', out: { to: 'main', on: true } });
  const strips = [
    strip('a', 'Frame drum & co', 'sha256:1'),
    strip('b', 'Twin', 'sha256:1'),
    strip('c', '', 'sha256:2'),
    strip('d', 'Empty', null),
    strip('e', 'Not picked', 'sha256:3'),
  ];
  expect(stemFiles({ ...newSession('One'), strips }, ['d', 'c', 'b', 'a'])).toEqual([
    { name: 'Frame drum & co.wav', href: '/api/stems/sha256:1/file?name=Frame+drum+%26+co' },
    { name: 'c.wav', href: '/api/stems/sha256:2/file?name=c' },
  ]);
});

it('how long the rest takes is told by how fast it went, and not too soon', () => {
  expect(secondsLeft(0.25, 10)).toBe(30);
  expect(secondsLeft(1, 10)).toBe(0);
  expect([secondsLeft(0.25, 1), secondsLeft(0, 10)]).toEqual([null, null]);
});
