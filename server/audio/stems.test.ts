import { createHash, randomBytes } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import { StemChunkRow, StemRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';
import { PART_BYTES } from './stemReader';
import { forgetKnownStems, stemRow, stemWav, stemWavBytes } from './stemStore';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

const send = (file: Uint8Array, name = 'a.wav') => server.ask('POST', `/stems?name=${name}&rate=48000`, file);
async function exported(stem: string): Promise<Buffer> {
  const row = await stemRow(stem);
  const pieces: Buffer[] = [];
  for await (const piece of stemWav(server.sequelize, row)) pieces.push(piece);
  const file = Buffer.concat(pieces);
  expect(file.length).toBe(stemWavBytes(row));
  return file;
}
const pcm = async (stem: string, start: number, frames: number) =>
  new Float32Array(
    await (await fetch(`${server.base}/api/stems/${stem}/pcm?start=${start}&frames=${frames}`)).arrayBuffer(),
  );

/** Whole numbers of so many bits, all kinds of them, the ends of the range too. */
function integers(count: number, bits: number): number[] {
  const full = 2 ** (bits - 1);
  const some = [-full, full - 1, 0, -1, 1, full >> 1];
  const noise = randomBytes(count * 4);
  return Array.from({ length: count }, (_, i) => some[i] ?? noise.readInt32LE(i * 4) >> (32 - bits));
}

// Against the npm package wavefile, which writes the file that comes in and reads the one that goes out.
describe('a stem is kept at the depth it came with, bit by bit', () => {
  it.each([
    ['16', 1, 's16', 2],
    ['16', 2, 's16', 2],
    ['24', 1, 's24', 3],
    ['24', 2, 's24', 3],
    ['32', 2, 's32', 4],
  ] as const)('of %s bits, %i channels', async (bits, channels, depth, bytes) => {
    // More than two loads of rows, and an odd number of frames.
    const frames = 700_001;
    const all = Array.from({ length: channels }, () => integers(frames, Number(bits)));
    const wav = new WaveFile();
    wav.fromScratch(channels, 48000, bits, channels === 1 ? all[0]! : all);
    const { status, body } = await send(wav.toBuffer());
    expect([status, body.frames, body.channels]).toEqual([201, frames, channels]);
    const row = (await stemRow(body.stem)) as StemRow;
    expect(row.depth).toBe(depth);
    const [[{ n }]] = (await server.sequelize.query(
      'SELECT SUM(length(data))::int AS n FROM stem_chunks WHERE stem_id = ' + row.id,
    )) as unknown as [[{ n: number }]];
    // No more bytes than came in.
    expect(n).toBe(frames * channels * bytes);
    const out = new WaveFile(await exported(body.stem));
    expect(out.bitDepth).toBe(bits);
    const samples = out.getSamples(false, Int32Array) as unknown as Int32Array | Int32Array[];
    const read = channels === 1 ? [samples as Int32Array] : (samples as Int32Array[]);
    read.forEach((side, c) => expect(side.every((v, i) => v === all[c]![i])).toBe(true));
    // What is played are the same numbers as floats, at borders of parts and of loads.
    const full = 2 ** (Number(bits) - 1);
    const perPart = PART_BYTES / bytes / channels;
    for (const start of [0, perPart - 3, perPart * 130 - 5, frames - 4]) {
      const heard = await pcm(body.stem, start, 10);
      const wanted = Array.from({ length: Math.min(10, frames - start) * channels }, (_, i) =>
        Math.fround(all[i % channels]![start + Math.floor(i / channels)]! / full),
      );
      expect([...heard]).toEqual(wanted);
    }
  });

  it('of floats, as ever: its name is the one that it always had', async () => {
    const file = toneFile(30_000, 2);
    const { stem } = (await send(file)).body;
    const hash = createHash('sha256').update('zonula-pcm 48000 2\n').update(file.subarray(58)).digest('hex');
    expect(stem).toBe(`sha256:${hash}`);
    expect((await exported(stem)).equals(Buffer.from(file))).toBe(true);
  });
  it('is the same stem when it comes back from a package', async () => {
    const wav = new WaveFile();
    wav.fromScratch(1, 48000, '24', integers(50_000, 24));
    const { stem } = (await send(wav.toBuffer())).body;
    expect((await send(await exported(stem))).body.stem).toBe(stem);
  });
});

it('tells when it begins, where its file does, also at another rate than the session’s', async () => {
  for (const rate of [48000, 96000]) {
    const tone = Buffer.from(toneFile(4000, 1, rate, 222));
    const bext = Buffer.alloc(8 + 602);
    bext.write('bext', 0, 'latin1');
    bext.writeUInt32LE(602, 4);
    bext.writeBigUInt64LE(BigInt(rate * 36_000 + rate / 2), 8 + 338);
    const { stem } = (await send(Buffer.concat([tone.subarray(0, 12), bext, tone.subarray(12)]))).body;
    expect((await server.ask('GET', `/stems/${stem}`)).body.begins).toBe(36_000.5);
  }
});

describe('stems that were stored in parts of a megabyte', () => {
  it('are read, and written out, as they were', async () => {
    const frames = 700_000;
    const file = toneFile(frames, 1, 48000, 97);
    const { stem } = (await send(file)).body;
    const row = (await stemRow(stem)) as StemRow;
    // As an earlier version of the program stored it; its second part is silent.
    const audio = Buffer.from(file.subarray(58));
    audio.fill(0, 1 << 20, 2 << 20);
    await StemChunkRow.destroy({ where: { stemId: row.id } });
    for (const index of [0, 2])
      await StemChunkRow.create({
        stemId: row.id,
        index,
        data: audio.subarray(index << 20, (index + 1) << 20),
      });
    await row.update({ partBytes: 1 << 20 });
    // What is known of a stem is remembered; here it has changed since.
    forgetKnownStems();
    for (const start of [0, (1 << 18) - 5, (1 << 19) - 5, frames - 3]) {
      const heard = Buffer.from(
        await (await fetch(`${server.base}/api/stems/${stem}/pcm?start=${start}&frames=10`)).arrayBuffer(),
      );
      expect(heard.equals(audio.subarray(start * 4, (start + 10) * 4))).toBe(true);
    }
    expect((await exported(stem)).subarray(58).equals(audio)).toBe(true);
  });
});
describe('a stem that goes wrong on its way in', () => {
  const nothingLeft = async (work: () => Promise<unknown>) => {
    const counts = async () => [await StemRow.count(), await StemChunkRow.count()];
    const before = await counts();
    await work();
    expect(await counts()).toEqual(before);
  };
  it('leaves nothing behind where its file breaks off after megabytes', async () => {
    const file = toneFile(1_500_000);
    await nothingLeft(async () => {
      const { status, body } = await send(file.subarray(0, 5_000_000));
      expect(status).toBe(422);
      expect(body.error.message).toMatch(/cut off.*1500000 frames/);
    });
    // The connection is of use again.
    expect((await send(file)).status).toBe(201);
  });
  it('leaves nothing behind where the database lets go of it in the middle', async () => {
    const file = toneFile(2_000_000, 2, 48000, 51);
    await nothingLeft(async () => {
      const sending = send(file);
      for (let k = 0; k < 400; k++) {
        const [, end] = await server.sequelize.query(
          `SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query LIKE 'COPY stem_chunks%' AND state = 'active' AND datname = current_database()`,
        );
        if ((end as { rowCount: number }).rowCount) break;
        await new Promise((r) => setTimeout(r, 5));
      }
      expect((await sending).status).toBe(503);
    });
    expect((await send(file)).status).toBe(201);
  });
  it('goes with its parts when it is removed', async () => {
    const { stem } = (await send(toneFile(20_000, 1, 48000, 1234))).body;
    const row = (await stemRow(stem)) as StemRow;
    expect(await StemChunkRow.count({ where: { stemId: row.id } })).toBe(10);
    await row.destroy();
    expect(await StemChunkRow.count({ where: { stemId: row.id } })).toBe(0);
  });
});
