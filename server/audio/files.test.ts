import { randomBytes } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import { floatsOf } from '../../core/formats/audio/samples';
import { newSession, newStrip } from '../../core/session/defaults';
import { flacEncoder, littleEndian, plainFlac } from '../../core/testing/flacFile';
import { FileStems } from '../package/stemFiles';
import { StemChunkRow, StemRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

interface Stem {
  readonly stem: string;
  readonly channels: number;
  readonly frames: number;
  readonly place: string | null;
}
const send = (file: Uint8Array, name = 'a.wav', more = '') =>
  server.ask('POST', `/stems?name=${name}&rate=48000${more}`, file);
const pcm = async (stem: string, start: number, frames: number) =>
  new Float32Array(
    await (await fetch(`${server.base}/api/stems/${stem}/pcm?start=${start}&frames=${frames}`)).arrayBuffer(),
  );
const noise = (count: number, bits: number) => {
  const bytes = randomBytes(count * 4);
  return Array.from({ length: count }, (_, i) => bytes.readInt32LE(i * 4) >> (32 - bits));
};
/** A file of six channels, as 5.1 has them, by the npm package wavefile. */
function six(channels: readonly number[][]): Buffer {
  const wav = new WaveFile();
  wav.fromScratch(6, 48000, '24', channels as number[][]);
  (wav.fmt as { audioFormat: number }).audioFormat = 0xfffe;
  return Buffer.from(wav.toBuffer());
}

describe('a file of more than two channels', () => {
  it('becomes a stem for each pair and each channel alone, bit by bit', async () => {
    const frames = 60_001;
    const channels = Array.from({ length: 6 }, () => noise(frames, 24));
    const { status, body } = await send(six(channels));
    expect(status).toBe(201);
    const stems = body.stems as readonly Stem[];
    expect(stems.map((s) => [s.place, s.channels, s.frames])).toEqual([
      ['front', 2, frames],
      ['centre', 1, frames],
      ['lfe', 1, frames],
      ['rear', 2, frames],
    ]);
    expect(body.stem).toBe(stems[0]!.stem);
    const wanted = [[0, 1], [2], [3], [4, 5]];
    for (const [k, { stem }] of stems.entries()) {
      const got = await pcm(stem, 0, frames);
      const from = wanted[k]!;
      expect(
        got.every((v, i) => v === channels[from[i % from.length]!]![Math.floor(i / from.length)]! / 2 ** 23),
      ).toBe(true);
    }
    // The same once more: nothing is stored twice.
    const rows = await StemChunkRow.count();
    expect((await send(six(channels))).body).toEqual(body);
    expect(await StemChunkRow.count()).toBe(rows);
  });
  it('of which some are the same, or are there already, stores each once', async () => {
    const one = noise(20_000, 24);
    const wav = new WaveFile();
    wav.fromScratch(1, 48000, '24', one);
    const { stem } = (await send(wav.toBuffer())).body;
    const before = await StemRow.count();
    const silence = new Array<number>(20_000).fill(0);
    const { status, body } = await send(six([one, one, one, one, silence, silence]));
    expect(status).toBe(201);
    const stems = body.stems as readonly Stem[];
    expect([stems[1]!.stem, stems[2]!.stem]).toEqual([stem, stem]);
    // The front and the rear pair are new.
    expect(await StemRow.count()).toBe(before + 2);
    const orphans = await server.sequelize.query(
      'SELECT 1 FROM stem_chunks c LEFT JOIN stems s ON s.id = c.stem_id WHERE s.id IS NULL',
    );
    expect(orphans[0]).toEqual([]);
  });
  it('of another rate is converted, each of its stems to one length', async () => {
    const wav = new WaveFile();
    wav.fromScratch(
      4,
      44100,
      '16',
      Array.from({ length: 4 }, () => noise(44100, 16)),
    );
    const stems = (await send(wav.toBuffer(), 'quad.wav')).body.stems as readonly Stem[];
    expect(new Set(stems.map((s) => s.frames)).size).toBe(1);
    expect(Math.abs(stems[0]!.frames - 48000)).toBeLessThan(2);
  });
});

describe('FLAC files', () => {
  it('come in bit by bit, and are the stems that WAV files of the same samples are', async () => {
    const encode = await flacEncoder();
    const samples = Int32Array.from(noise(50_000 * 2, 16));
    const flac = await send(encode(samples, { channels: 2 }), 'a.flac');
    expect([flac.status, flac.body.channels, flac.body.frames]).toEqual([201, 2, 50_000]);
    const wav = new WaveFile();
    const side = (c: number) => [...samples].filter((_, i) => i % 2 === c);
    wav.fromScratch(2, 48000, '16', [side(0), side(1)]);
    expect((await send(wav.toBuffer())).body.stem).toBe(flac.body.stem);
    const wanted = floatsOf(littleEndian(samples, 2), 's16');
    expect(
      Buffer.from((await pcm(flac.body.stem, 0, 50_000)).buffer).equals(Buffer.from(wanted.buffer)),
    ).toBe(true);
  });
  it('that are damaged leave nothing behind', async () => {
    const encode = await flacEncoder();
    const bad = Buffer.from(encode(Int32Array.from(noise(90_000, 16))));
    bad[bad.length >> 1]! ^= 4;
    const [rows, stems] = [await StemChunkRow.count(), await StemRow.count()];
    const { status, body } = await send(bad, 'bad.flac');
    expect([status, body.error.code]).toEqual([422, 'cut']);
    expect(body.error.message).toMatch(/`bad\.flac`: it is cut off or damaged/);
    expect([await StemChunkRow.count(), await StemRow.count()]).toEqual([rows, stems]);
  });
  it('of 32 bits come in as they are', async () => {
    const samples = Int32Array.from(noise(40_000, 32));
    const blocks = Array.from({ length: 10 }, () => 4000);
    const { status, body } = await send(plainFlac(samples, { bits: 32, channels: 1, blocks }), 'a.flac');
    expect([status, body.frames]).toEqual([201, 40_000]);
    const wav = new WaveFile();
    wav.fromScratch(1, 48000, '32', [...samples]);
    expect((await send(wav.toBuffer())).body.stem).toBe(body.stem);
  });
});

// "Audio Interchange File Format: AIFF", 1.3: chunks may stand in any order.
describe('an AIFF file whose sound comes before its facts', () => {
  const frames = 3_000_000;
  const audio = randomBytes(frames * 2);
  const chunk = (id: string, body: Uint8Array) => {
    const head = Buffer.alloc(8);
    head.write(id, 'latin1');
    head.writeUInt32BE(body.length, 4);
    return Buffer.concat([head, body]);
  };
  const common = Buffer.from('0001000000000010400ebb80000000000000', 'hex');
  common.writeUInt32BE(frames, 2);
  const sound = chunk('SSND', Buffer.concat([Buffer.alloc(8), audio]));
  const file = chunk(
    'FORM',
    Buffer.concat([Buffer.from('AIFF'), sound, chunk('NAME', Buffer.from('Drum')), chunk('COMM', common)]),
  );
  it('comes in bit by bit', async () => {
    const { status, body } = await send(file, 'a.aif');
    expect([status, body.frames]).toEqual([201, frames]);
    for (const from of [0, 1_500_000, frames - 9000]) {
      const got = await pcm(body.stem, from, 9000);
      expect(got).toHaveLength(9000);
      expect(got.every((v, i) => v === audio.readInt16BE((from + i) * 2) / 2 ** 15)).toBe(true);
    }
  });
  it('and is cut off holds nothing that tells of it, and says so', async () => {
    const { status, body } = await send(file.subarray(0, -20), 'a.aif', '&cut=true');
    expect([status, body.error.code]).toEqual([422, 'cut']);
    expect(body.error.message).toMatch(/ends before what tells of its audio/);
  });
  it('is read from a package where it stands, too', () => {
    const folder = mkdtempSync(join(tmpdir(), 'zonula-aiff-'));
    try {
      const path = join(folder, 'a.aif');
      writeFileSync(path, file);
      const strip = newStrip({
        id: 'a',
        kind: 'source',
        name: 'A',
        out: { to: 'main', on: true },
        stem: 'a.aif',
      });
      const session = { ...newSession('One'), strips: [strip] };
      const stems = FileStems.open({ session, stemFile: () => path, close: async () => {} });
      expect(stems.longest).toBe(frames);
      const into = new Float32Array(5000);
      stems.read(strip, 2_990_000, into);
      stems.close();
      expect(into.every((v, i) => v === audio.readInt16BE((2_990_000 + i) * 2) / 2 ** 15)).toBe(true);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});

describe('a file that is cut off', () => {
  it('is refused as that, and comes in as far as it goes when it is asked to', async () => {
    const whole = toneFile(100_000, 1, 48000, 440);
    // In the middle of a frame, at every offset of one.
    for (const odd of [0, 1, 2, 3]) {
      const cut = Buffer.from(whole).subarray(0, 200_000 + odd);
      const refused = await send(cut, 'cut.wav');
      expect([refused.status, refused.body.error.code]).toEqual([422, 'cut']);
      const { status, body } = await send(cut, 'cut.wav', '&cut=true');
      expect(status).toBe(201);
      const frames = body.frames as number;
      expect(frames).toBeGreaterThan(40_000);
      expect(frames).toBeLessThan(100_000);
      const all = await pcm((await send(whole)).body.stem, 0, frames);
      expect(await pcm(body.stem, 0, frames)).toEqual(all);
    }
  });
  it('before its audio, or that is none, is refused all the same', async () => {
    for (const file of [toneFile(1000).subarray(0, 30), Buffer.from('Dear Sir, this is no sound at all.')]) {
      const { status, body } = await send(file, 'x.wav', '&cut=true');
      expect([status, body.error.code]).toEqual([422, 'audio']);
    }
  });
});

describe('stems that are named before they are sent', () => {
  it('are told as far as they are there and whole, and are young again', async () => {
    const { stem } = (await send(toneFile(3000, 1, 48000, 333))).body;
    const missing = `sha256:${'0'.repeat(64)}`;
    await StemRow.update({ usedAt: new Date(0) }, { where: {} });
    const { body } = await server.ask('POST', '/stems/known', { stems: [stem, missing] });
    expect(Object.keys(body.stems)).toEqual([stem]);
    expect(body.stems[stem]).toMatchObject({ channels: 1, frames: 3000, sampleRate: 48000 });
    const row = (await StemRow.findOne({ where: { sha256: (stem as string).slice(7) } }))!;
    expect(row.usedAt.getTime()).toBeGreaterThan(Date.now() - 60_000);
    await row.update({ damaged: true });
    expect((await server.ask('POST', '/stems/known', { stems: [stem] })).body.stems).toEqual({});
    expect((await server.ask('POST', '/stems/known', { stems: ['nothing'] })).status).toBe(400);
  });
});
