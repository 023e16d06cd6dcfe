import { createHash, randomBytes } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Sequelize } from 'sequelize';
import { afterAll, afterEach, beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { floatsOf } from '../../core/formats/audio/samples';
import { isLack, SliceStream } from '../../core/formats/audio/slices';
import { stemHead } from '../../core/formats/audio/stemName';
import { wavHeader } from '../../core/formats/audio/wav';
import { StemChunkRow, StemRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';
import { BLOCK_BYTES, keepNear, StemCache } from './stemCache';
import type { StemPlace } from './stemBytes';
import { sweepStems } from './sweep';

const folders: string[] = [];
const newFolder = () => {
  const folder = mkdtempSync(join(tmpdir(), 'zonula-near-test-'));
  folders.push(folder);
  return folder;
};
afterAll(() => {
  for (const folder of folders) rmSync(folder, { recursive: true, force: true });
});

const same = (a: Float32Array, b: Float32Array) =>
  Buffer.from(a.buffer, a.byteOffset, a.byteLength).equals(Buffer.from(b.buffer, b.byteOffset, b.byteLength));

/** A stem of noise, named as stems are. */
function noise(frames: number, channels: 1 | 2 = 1, depth: 's16' | 's24' | 'f32' = 's16') {
  const bytes = randomBytes(frames * channels * { s16: 2, s24: 3, f32: 4 }[depth]);
  const sha256 = createHash('sha256')
    .update(stemHead(48000, channels, depth))
    .update(bytes)
    .digest('hex');
  const place: StemPlace = { id: 1, sha256, channels, sampleRate: 48000, frames, depth, partBytes: 8064 };
  return { place, bytes };
}
type Noise = ReturnType<typeof noise>;

let folder: string;
beforeEach(() => (folder = newFolder()));
const open: StemCache[] = [];
afterEach(async () => {
  for (const cache of open.splice(0)) await cache.close();
});
const cacheOf = (stems: readonly Noise[], limit = 1e9, piece = 10_000) => {
  const asked: string[] = [];
  const cache = new StemCache({
    folder,
    limit,
    after: 0,
    rest: 0,
    async *whole({ sha256 }) {
      asked.push(sha256);
      const { bytes } = stems.find((s) => s.place.sha256 === sha256)!;
      for (let at = 0; at < bytes.length; at += piece) yield bytes.subarray(at, at + piece);
    },
  });
  open.push(cache);
  return { cache, asked };
};
const near = async (cache: StemCache, ...stems: readonly Noise[]) => {
  for (const { place, bytes } of stems) await cache.read(place, 0, bytes.length);
  await expect.poll(() => cache.state.waiting).toBe(0);
};
const fileOf = ({ place }: Noise) => join(folder, place.sha256);

describe('stems on the disk', () => {
  it.each([
    [1, 1, 's16'],
    [BLOCK_BYTES / 2, 1, 's16'],
    [BLOCK_BYTES / 2 + 1, 1, 's16'],
    [70_001, 2, 's24'],
    [50_000, 2, 'f32'],
  ] as const)(
    '%d frames of %d channels of %s are read from any place to any other',
    async (frames, channels, depth) => {
      const stem = noise(frames, channels, depth);
      const { cache } = cacheOf([stem]);
      expect(await cache.read(stem.place, 0, stem.bytes.length)).toBeNull();
      await near(cache, stem);
      const edges = [
        0,
        1,
        BLOCK_BYTES - 1,
        BLOCK_BYTES,
        BLOCK_BYTES + 1,
        stem.bytes.length - 1,
        stem.bytes.length,
      ];
      for (const from of edges)
        for (const to of edges)
          if (from <= to && to <= stem.bytes.length)
            expect((await cache.read(stem.place, from, to))!.equals(stem.bytes.subarray(from, to))).toBe(
              true,
            );
    },
  );

  it('are there again when it is opened anew, without being asked for', async () => {
    const stem = noise(40_000);
    const first = cacheOf([stem]);
    await near(first.cache, stem);
    await first.cache.close();
    const again = cacheOf([]);
    expect(again.cache.state.bytes).toBe(first.cache.state.bytes);
    expect((await again.cache.read(stem.place, 5, 70_000))!.equals(stem.bytes.subarray(5, 70_000))).toBe(
      true,
    );
  });

  it('a byte that is damaged anywhere is never given: the stem is fetched anew', async () => {
    const stem = noise(60_000);
    const { cache } = cacheOf([stem]);
    await near(cache, stem);
    const whole = readFileSync(fileOf(stem));
    const size = whole.length;
    const places = [0, BLOCK_BYTES, stem.bytes.length - 1, stem.bytes.length, size - 24, size - 16, size - 8];
    for (let k = 0; k < 60; k++) places.push(Math.floor((size * k) / 60));
    let gave = 0;
    for (const at of places) {
      await cache.close();
      const broken = Buffer.from(whole);
      broken[at]! ^= 1 << (at % 8);
      writeFileSync(fileOf(stem), broken);
      const { cache: fresh, asked } = cacheOf([stem]);
      const got = await fresh.read(stem.place, 0, stem.bytes.length);
      // The last four bytes say nothing.
      if (at >= size - 4) continue;
      if (got) gave++;
      await expect.poll(() => fresh.state.waiting).toBe(0);
      expect(asked).toEqual([stem.place.sha256]);
      expect((await fresh.read(stem.place, 0, stem.bytes.length))!.equals(stem.bytes)).toBe(true);
      await fresh.close();
    }
    expect(gave).toBe(0);
  });

  it('a file that is cut off anywhere, or only half written, is never given', async () => {
    const stem = noise(60_000);
    const { cache } = cacheOf([stem]);
    await near(cache, stem);
    await cache.close();
    const whole = readFileSync(fileOf(stem));
    for (const size of [
      0,
      1,
      23,
      24,
      100,
      BLOCK_BYTES,
      stem.bytes.length,
      whole.length - 24,
      whole.length - 1,
    ]) {
      writeFileSync(fileOf(stem), whole.subarray(0, size));
      writeFileSync(`${fileOf(stem)}.part`, whole.subarray(0, size));
      const { cache: fresh } = cacheOf([stem]);
      expect(existsSync(`${fileOf(stem)}.part`)).toBe(false);
      expect(await fresh.read(stem.place, 0, 100)).toBeNull();
      await expect.poll(() => fresh.state.waiting).toBe(0);
      expect((await fresh.read(stem.place, 0, 100))!.equals(stem.bytes.subarray(0, 100))).toBe(true);
      await fresh.close();
    }
  });

  it('what was cut off while it is open is not given either', async () => {
    const stem = noise(60_000);
    const { cache } = cacheOf([stem]);
    await near(cache, stem);
    expect(await cache.read(stem.place, 0, 10)).not.toBeNull();
    truncateSync(fileOf(stem), 50_000);
    expect(await cache.read(stem.place, 0, 10)).not.toBeNull();
    expect(await cache.read(stem.place, 0, 60_000)).toBeNull();
  });

  it('what the database gives wrong is not kept', async () => {
    const stem = noise(60_000);
    const wrong = { ...stem, bytes: Buffer.from(stem.bytes) };
    wrong.bytes[77]! ^= 1;
    const { cache, asked } = cacheOf([wrong]);
    await near(cache, stem);
    expect(asked).toHaveLength(1);
    expect(readdirSync(folder)).toEqual([]);
    // Nor is it tried again at once.
    await near(cache, stem);
    expect(asked).toHaveLength(1);
  });

  it('take no more than they may: those that were used least of late go, those in use stay', async () => {
    const stems = [noise(30_000), noise(30_000), noise(30_000), noise(30_000)];
    const limit = 3.5 * 60_000;
    const first = cacheOf(stems, limit);
    await near(first.cache, ...stems.slice(0, 3));
    expect(first.cache.state.near).toHaveLength(3);
    // All three were used a moment ago: the fourth has to wait.
    await near(first.cache, stems[3]!);
    expect(first.cache.state.near).not.toContain(stems[3]!.place.sha256);
    await first.cache.close();
    // Two minutes later the first and the last of them are used.
    const then = new Date(Date.now() - 120_000);
    for (const k of [0, 1, 2]) utimesSync(fileOf(stems[k]!), then, then);
    const later = cacheOf(stems, limit);
    await later.cache.read(stems[0]!.place, 0, 9);
    await later.cache.read(stems[2]!.place, 0, 9);
    await near(later.cache, stems[3]!);
    expect([...later.cache.state.near].sort()).toEqual([0, 2, 3].map((k) => stems[k]!.place.sha256).sort());
    expect(later.cache.state.bytes).toBeLessThanOrEqual(limit);
    expect(readdirSync(folder)).toHaveLength(3);
    // One that is larger than all the room is never begun.
    const large = noise(200_000);
    await near(later.cache, large);
    expect(later.asked).not.toContain(large.place.sha256);
  });

  it('more stems than are held open at once', async () => {
    const stems = Array.from({ length: 450 }, () => noise(300));
    const { cache } = cacheOf(stems);
    for (let k = 0; k < 450; k += 150) await near(cache, ...stems.slice(k, k + 150));
    for (let turn = 0; turn < 2; turn++) {
      const got = await Promise.all(stems.map(({ place }) => cache.read(place, 2, 500)));
      got.forEach((bytes, k) => expect(bytes!.equals(stems[k]!.bytes.subarray(2, 500))).toBe(true));
    }
  });

  it('where there is no folder to be had, all is as without', async () => {
    const stem = noise(1000);
    folder = join(folder, 'file');
    writeFileSync(folder, 'here already');
    const { cache } = cacheOf([stem]);
    await near(cache, stem);
    expect(await cache.read(stem.place, 0, 9)).toBeNull();
    expect(readFileSync(folder, 'utf8')).toBe('here already');
  });
});

describe('the server', () => {
  let server: TestServer;
  beforeAll(async () => {
    server = await startServer();
  });
  afterAll(() => server.close());
  const bring = async (samples: Buffer) => {
    const file = Buffer.concat([wavHeader('s16', 1, 48000, samples.length / 2), samples]);
    return (await server.ask('POST', '/stems?name=a.wav&rate=48000', file)).body.stem as string;
  };
  async function slices(stems: readonly string[], start: number, frames: number) {
    const got: (Float32Array | null)[] = [];
    const answer = await fetch(`${server.base}/api/stems/slices`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ slices: stems.map((stem) => ({ stem, start, frames })) }),
    });
    const stream = new SliceStream(({ depth }, samples) =>
      got.push(isLack(depth) ? null : Float32Array.from(floatsOf(samples, depth))),
    );
    stream.push(new Uint8Array(await answer.arrayBuffer()));
    stream.end();
    return got;
  }
  const begin = () => {
    const cache = keepNear(server.sequelize, folder, 1e9, { after: 0, rest: 0 })!;
    open.push(cache);
    return cache;
  };
  const pcm = async (stem: string, start: number, frames: number) =>
    new Float32Array(
      await (
        await fetch(`${server.base}/api/stems/${stem}/pcm?start=${start}&frames=${frames}`)
      ).arrayBuffer(),
    );

  it('plays stems that are near without the database', async () => {
    const cache = begin();
    const samples = [randomBytes(200_002), randomBytes(40_000)];
    const stems = await Promise.all(samples.map(bring));
    const floats = samples.map((s) => Float32Array.from(floatsOf(s, 's16')));
    const right = async (start: number, frames: number) => {
      const got = await slices(stems, start, frames);
      expect(got).toEqual(floats.map((f) => f.subarray(start, start + frames)));
      for (const [k, stem] of stems.entries())
        expect(await pcm(stem, start, frames)).toEqual(floats[k]!.subarray(start, start + frames));
    };
    await right(0, 16384);
    await expect.poll(() => cache.state.near).toHaveLength(2);
    await StemChunkRow.destroy({ where: {} });
    await right(0, 16384);
    await right(16383, 60_000);
    await right(99_999, 16384);
    // And what is not near comes from the database, which has lost it here.
    cache.drop(stems[0]!.slice(7));
    expect((await slices([stems[0]!], 0, 4))[0]!.every((x) => x === 0)).toBe(true);
  });

  it('gives the right sound while all that is near is emptied, damaged and removed under its hands', async () => {
    const cache = begin();
    const samples = Array.from({ length: 12 }, () => randomBytes(100_000));
    const stems = await Promise.all(samples.map(bring));
    const floats = samples.map((s) => Float32Array.from(floatsOf(s, 's16')));
    let over = false;
    const harm = (async () => {
      for (let k = 0; !over; k++) {
        await new Promise((done) => setTimeout(done, 25));
        const names = existsSync(folder) ? readdirSync(folder) : [];
        const name = names[k % Math.max(1, names.length)];
        try {
          if (k % 9 === 8) rmSync(folder, { recursive: true, force: true });
          else if (name && k % 3 === 0) truncateSync(join(folder, name), k * 997);
          else if (name) rmSync(join(folder, name), { force: true });
          if (k % 20 === 19) mkdirSync(folder, { recursive: true });
        } catch {
          // It was just renamed or removed.
        }
      }
    })();
    let ofDisk = 0;
    for (let asked = 0; asked < 150; asked++) {
      const start = (asked * 1237) % 40_000;
      ofDisk += cache.state.near.length;
      const got = await slices(stems, start, 8192);
      got.forEach((g, k) => expect(same(g!, floats[k]!.subarray(start, start + 8192))).toBe(true));
    }
    over = true;
    await harm;
    // It was of use in between.
    expect(ofDisk).toBeGreaterThan(10);
  });

  it('plays on from the disk while the database is away, and says what it cannot give now', async () => {
    const cache = begin();
    const samples = [randomBytes(80_000), randomBytes(80_000), randomBytes(80_000)];
    const [here, far, unknown] = await Promise.all(samples.map(bring));
    await slices([here!, far!], 0, 10);
    await expect.poll(() => cache.state.near).toHaveLength(2);
    cache.drop(far!.slice(7));
    const admin = new Sequelize(process.env.ZONULA_TEST_DATABASE!, { dialect: 'postgres', logging: false });
    const name = new URL(server.url).pathname.slice(1);
    const heads = async () => {
      const got: (string | number)[] = [];
      const answer = await fetch(`${server.base}/api/stems/slices`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({
          slices: [here, far, unknown].map((stem) => ({ stem, start: 100, frames: 30_000 })),
        }),
      });
      const stream = new SliceStream(({ depth, number }, bytes) =>
        got.push(
          isLack(depth) ? depth : samples[number]!.subarray(200, 60_200).equals(bytes) ? 'right' : 'wrong',
        ),
      );
      stream.push(new Uint8Array(await answer.arrayBuffer()));
      stream.end();
      return got;
    };
    try {
      await admin.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS false`);
      await admin.query(`SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = '${name}'`);
      for (let turn = 0; turn < 3; turn++) expect(await heads()).toEqual(['right', 'away', 'away']);
      const { status, body } = await server.ask('GET', `/stems/${far}/pcm?start=0&frames=10`);
      expect([status, body.error.code]).toEqual([503, 'database']);
    } finally {
      await admin.query(`ALTER DATABASE ${name} ALLOW_CONNECTIONS true`);
      await admin.close();
    }
    await expect.poll(heads).toEqual(['right', 'right', 'right']);
  });

  it('throws away what is swept', async () => {
    const cache = begin();
    const stem = await bring(randomBytes(5000));
    await slices([stem], 0, 100);
    await expect.poll(() => cache.state.near).toEqual([stem.slice(7)]);
    await StemRow.update({ usedAt: new Date(Date.now() - 48 * 3600e3) }, { where: {} });
    await sweepStems(server.sequelize);
    expect(readdirSync(folder)).toEqual([]);
    expect(await slices([stem], 0, 100)).toEqual([null]);
  });
});
