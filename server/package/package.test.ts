import { createWriteStream, mkdirSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { mkdir, mkdtemp, readdir, readFile, rm, stat, symlink, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import yazl from 'yazl';
import { floatWavHeader } from '../../core/formats/audio/wav';
import { newSession, newStrip } from '../../core/session/defaults';
import type { Session } from '../../core/session/types';
import { toneFile } from '../testing/wav';
import { openPackage } from './readPackage';
import { FileStems } from './stemFiles';
import { writePackageFile } from './writePackage';
import { openZip } from './zip';
import { checkEntryName } from './limits';

let folder: string;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'zonula-package-test-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

const base = newSession('Package');
const session: Session = {
  ...base,
  strips: [
    newStrip({ id: 'a', kind: 'source', name: 'A', stem: 'stems/a.wav', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
};
async function zipOf(name: string, entries: Record<string, string | Uint8Array>): Promise<string> {
  const file = join(folder, `${name}.zonula`);
  const zip = new yazl.ZipFile();
  for (const [path, content] of Object.entries(entries))
    zip.addBuffer(Buffer.from(content as string), path, { compress: true });
  zip.end();
  await pipeline(zip.outputStream as unknown as Readable, createWriteStream(file));
  return file;
}
/** A ZIP whose entry is renamed in its bytes, to what a decent program would not write. */
async function renamed(name: string, from: string, to: string): Promise<string> {
  const file = await zipOf(name, {
    'session.json': JSON.stringify(session),
    'stems/a.wav': toneFile(100),
    [from]: 'x',
  });
  const { readFile } = await import('node:fs/promises');
  const bytes = await readFile(file);
  for (let at = bytes.indexOf(from); at >= 0; at = bytes.indexOf(from, at + 1)) bytes.write(to, at, 'latin1');
  await writeFile(file, bytes);
  return file;
}

describe('a session package', () => {
  it('as a ZIP and as a folder gives the same session and the same audio', async () => {
    const zip = join(folder, 'good.zonula');
    await writePackageFile(session, zip, async () => ({
      bytes: toneFile(100).length,
      open: () => Readable.from([toneFile(100)]),
    }));
    const dir = join(folder, 'good');
    await mkdir(join(dir, 'stems'), { recursive: true });
    await writeFile(join(dir, 'session.json'), JSON.stringify(session));
    await writeFile(join(dir, 'stems/a.wav'), toneFile(100));
    const read = async (path: string) => {
      const pack = await openPackage(path);
      const stems = FileStems.open(pack);
      const audio = new Float32Array(128).fill(9);
      stems.read(pack.session.strips[0]!, 0, audio);
      stems.close();
      await pack.close();
      return { session: pack.session, audio: [...audio], longest: stems.longest };
    };
    const [a, b] = [await read(zip), await read(dir)];
    expect(a).toEqual(b);
    expect(a.session).toEqual(session);
    expect(a.audio.slice(100)).toEqual(new Array(28).fill(0));
  });
  // The WaveFile package writes the files, in every encoding that is read.
  it.each(['16', '24', '32', '32f'] as const)(
    'gives the samples of a stereo file of %s bits to strips of either kind, and silence after its end',
    async (bits) => {
      const frames = 300;
      const sides = [0, 1].map((c) => Array.from({ length: frames }, (_, i) => Math.sin(i * 0.1 + c) * 0.8));
      const scale = bits === '32f' ? 1 : 2 ** (Number(bits) - 1) - 1;
      const wav = new WaveFile();
      wav.fromScratch(
        2,
        base.sampleRate,
        bits,
        sides.map((x) => x.map((v) => (scale === 1 ? v : Math.round(v * scale)))),
      );
      const dir = join(folder, `fit-${bits}`);
      await mkdir(join(dir, 'stems'), { recursive: true });
      const strip = (id: string, channels: 1 | 2) =>
        newStrip({
          id,
          kind: 'source',
          name: id,
          channels,
          stem: 'stems/a.wav',
          out: { to: 'main', on: true },
        });
      const doc: Session = { ...base, strips: [strip('mono', 1), strip('pair', 2), ...base.strips] };
      await writeFile(join(dir, 'session.json'), JSON.stringify(doc));
      await writeFile(join(dir, 'stems/a.wav'), wav.toBuffer());
      const pack = await openPackage(dir);
      const stems = FileStems.open(pack);
      const step = Math.max(1e-7, bits === '32f' ? 0 : 2 / scale);
      const at = 200;
      const [mono, pair] = [new Float32Array(128).fill(9), new Float32Array(256).fill(9)];
      stems.read(pack.session.strips[0]!, at, mono);
      stems.read(pack.session.strips[1]!, at, pair);
      for (let i = 0; i < 128; i++) {
        const there = at + i < frames;
        const [l, r] = sides.map((x) => (there ? x[at + i]! : 0)) as [number, number];
        expect(Math.abs(pair[2 * i]! - l)).toBeLessThan(step);
        expect(Math.abs(pair[2 * i + 1]! - r)).toBeLessThan(step);
        expect(Math.abs(mono[i]! - (l + r) / 2)).toBeLessThan(step);
      }
      // Far behind its end there is nothing.
      stems.read(pack.session.strips[1]!, 5000, pair);
      expect(pair.every((v) => v === 0)).toBe(true);
      stems.close();
    },
  );
  it('closes what it has opened when one of the stems is broken', async () => {
    const dir = join(folder, 'broken');
    await mkdir(join(dir, 'stems'), { recursive: true });
    const strip = (id: string) =>
      newStrip({ id, kind: 'source', name: id, stem: `stems/${id}.wav`, out: { to: 'main', on: true } });
    const doc: Session = { ...base, strips: [strip('whole'), strip('broken'), ...base.strips] };
    await writeFile(join(dir, 'session.json'), JSON.stringify(doc));
    await writeFile(join(dir, 'stems/whole.wav'), toneFile(100));
    await writeFile(join(dir, 'stems/broken.wav'), 'nothing of the kind');
    const open = async () => (await readdir('/proc/self/fd')).length;
    const pack = await openPackage(dir);
    const before = await open();
    expect(() => FileStems.open(pack)).toThrow(/stems\/broken\.wav/);
    expect(await open()).toBe(before);
  });
  it('cleans up what it unpacked', async () => {
    const unpacked = async () =>
      (await readdir(tmpdir())).filter((f) => f.startsWith(`zonula-${process.pid}-package-`)).length;
    const before = await unpacked();
    const pack = await openPackage(
      await zipOf('clean', { 'session.json': JSON.stringify(session), 'stems/a.wav': toneFile(10) }),
    );
    expect(await unpacked()).toBe(before + 1);
    await pack.close();
    expect(await unpacked()).toBe(before);
    await expect(
      openPackage(await zipOf('nostem', { 'session.json': JSON.stringify(session) })),
    ).rejects.toThrow(/stems\/a\.wav/);
    expect(await unpacked()).toBe(before);
  });
});

describe('a bad package is refused by what is wrong with it', () => {
  it.each<[string, () => Promise<string>, RegExp]>([
    ['a path that climbs out', () => renamed('climb', 'aa/evil.txt', '../evil.txt'), /leads out of it/],
    ['an absolute path', () => renamed('root', 'eetc/passwd', '/etc/passwd'), /leads out of it/],
    [
      'a stem that climbs out',
      () =>
        zipOf('stem', {
          'session.json': JSON.stringify({
            ...session,
            strips: session.strips.map((s) => (s.stem ? { ...s, stem: '../../etc/passwd' } : s)),
          }),
        }),
      /leads out of it/,
    ],
    ['no session.json', () => zipOf('empty', { 'readme.txt': 'hello' }), /no session\.json/],
    [
      'an unknown field',
      () => zipOf('field', { 'session.json': JSON.stringify({ ...session, mood: 'blue' }) }),
      /mood/,
    ],
    [
      'a future version',
      () => zipOf('future', { 'session.json': JSON.stringify({ ...session, version: 9 }) }),
      /version 9.*newer Zonula/s,
    ],
    [
      'a cycle',
      () =>
        zipOf('cycle', {
          'session.json': JSON.stringify({
            ...session,
            strips: [
              ...session.strips,
              newStrip({ id: 'b', kind: 'submix', name: 'B', out: { to: 'b', on: true } }),
            ],
          }),
        }),
      /b → b/,
    ],
    [
      'a dangling id',
      () =>
        zipOf('dangling', {
          'session.json': JSON.stringify({
            ...session,
            strips: session.strips.map((s) =>
              s.kind === 'source' ? { ...s, out: { to: 'nowhere', on: true } } : s,
            ),
          }),
        }),
      /nowhere/,
    ],
    [
      'no ZIP at all',
      async () => {
        const f = join(folder, 'letter.zonula');
        await writeFile(f, 'Dear Sir,');
        return f;
      },
      /no ZIP/,
    ],
    [
      'nothing in it',
      async () => {
        const f = join(folder, 'void.zonula');
        await writeFile(f, '');
        return f;
      },
      /empty/,
    ],
    ['a file that is not there', async () => join(folder, 'ghost.zonula'), /no package/],
  ])('%s', async (_what, make, reason) => {
    await expect(openPackage(await make())).rejects.toThrow(reason);
  });

  it('a bomb: a small file that would unpack to a large one', async () => {
    const file = await zipOf('bomb', {
      'session.json': JSON.stringify(session),
      'stems/a.wav': new Uint8Array(400 * 2 ** 20).fill(65),
    });
    await expect(openPackage(file)).rejects.toThrow(/not silent: that is no recording/);
  });
  it('but not a stem that is silent for nearly all of its hour', async () => {
    const frames = 3600 * 48000;
    const wav = new Uint8Array(58 + frames * 4);
    wav.set(floatWavHeader(1, 48000, frames));
    wav.set(toneFile(4800).subarray(58), 58 + 1000 * 48000);
    const file = await zipOf('sparse', { 'session.json': JSON.stringify(session), 'stems/a.wav': wav });
    expect((await stat(file)).size).toBeLessThan(2 ** 20);
    const zip = await openZip(file);
    await zip.judge(['stems/a.wav']);
    zip.close();
  });
  it('a file that stands in it twice', async () => {
    const file = await zipOf('twice', {
      'session.json': JSON.stringify(session),
      'stems/a.wav': toneFile(10),
      'stems/b.wav': toneFile(20),
    });
    const bytes = await readFile(file);
    for (let at = bytes.indexOf('stems/b.wav'); at >= 0; at = bytes.indexOf('stems/b.wav', at + 1))
      bytes.write('stems/a.wav', at, 'latin1');
    await writeFile(file, bytes);
    await expect(openPackage(file)).rejects.toThrow(/`stems\/a\.wav` stands twice/);
  });
  it('a document of very many strips, before it is looked at closely', async () => {
    const many = { ...session, strips: Array.from({ length: 900_000 }, () => ({})) };
    const file = await zipOf('many', { 'session.json': JSON.stringify(many) });
    const begun = process.cpuUsage();
    await expect(openPackage(file)).rejects.toThrow(/900000 strips: 1000 are the most/);
    // It took 57 s when every strip was looked at.
    expect(process.cpuUsage(begun).user / 1e6).toBeLessThan(10);
  });
  it.each([
    ['a pipe', (path: string) => execFileSync('mkfifo', [path])],
    ['a folder', (path: string) => mkdirSync(path)],
  ])('a stem that is %s', async (_what, make) => {
    const dir = await mkdtemp(join(folder, 'odd-'));
    await mkdir(join(dir, 'stems'));
    await writeFile(join(dir, 'session.json'), JSON.stringify(session));
    make(join(dir, 'stems/a.wav'));
    await expect(openPackage(dir)).rejects.toThrow(/`stems\/a\.wav` is no file/);
  });
  it('a stem named like a folder, or with a name that no disk takes', async () => {
    const named = (stem: string) => ({
      'session.json': JSON.stringify({
        ...session,
        strips: session.strips.map((s) => (s.stem ? { ...s, stem } : s)),
      }),
    });
    const folderZip = await zipOf('folder', { ...named('stems/'), stems_: '' });
    const bytes = await readFile(folderZip);
    for (let at = bytes.indexOf('stems_'); at >= 0; at = bytes.indexOf('stems_', at + 1))
      bytes.write('stems/', at);
    await writeFile(folderZip, bytes);
    await expect(openPackage(folderZip)).rejects.toThrow(/names the stem `stems\/`/);
    const long = `${'x'.repeat(300)}/a.wav`;
    await expect(openPackage(await zipOf('long', { ...named(long), [long]: toneFile(10) }))).rejects.toThrow(
      /a name that is too long/,
    );
  });
  it.each(['\u0000', '\ud83c', 'x\udfbb'])('a name with the character %j', async (odd) => {
    for (const strips of [
      session.strips.map((s) => ({ ...s, name: odd })),
      // The same where fields are left out, which is read by another way.
      [{ id: 'main', kind: 'output', name: odd }],
    ])
      await expect(
        openPackage(await zipOf('odd', { 'session.json': JSON.stringify({ ...session, strips }) })),
      ).rejects.toThrow(/name.*cannot be kept/);
  });
  it('a folder whose stem is a link that leads out', async () => {
    const dir = join(folder, 'link');
    await mkdir(join(dir, 'stems'), { recursive: true });
    await writeFile(join(dir, 'session.json'), JSON.stringify(session));
    await symlink('/etc/hostname', join(dir, 'stems/a.wav'));
    await expect(openPackage(dir)).rejects.toThrow(/leads out/);
  });
  it('a stem that is no sound is refused by its name', async () => {
    const pack = await openPackage(
      await zipOf('nosound', {
        'session.json': JSON.stringify(session),
        'stems/a.wav': 'not a sound, not at all',
      }),
    );
    expect(() => FileStems.open(pack)).toThrow(/stems\/a\.wav.*not a WAV file/);
    await pack.close();
  });
  it.each(['../a', 'a/../../b', '/a', 'C:/a', 'a\\b', 'a/./b', 'a\0b'])('the name %j', (name) =>
    expect(() => checkEntryName(name)).toThrow(/leads out/),
  );
  it('but not a decent name', () => expect(() => checkEntryName('stems/a..b.wav')).not.toThrow());
});
