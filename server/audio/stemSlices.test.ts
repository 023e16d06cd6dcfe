import { randomBytes } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import { floatsOf } from '../../core/formats/audio/samples';
import { isLack, SliceStream } from '../../core/formats/audio/slices';
import { StemRow } from '../database/models';
import { startServer, type TestServer } from '../testing/testServer';
import { toneFile } from '../testing/wav';

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.close());

interface Asked {
  readonly stem: string;
  readonly start: number;
  readonly frames: number;
}
const post = (slices: readonly Asked[], signal?: AbortSignal) =>
  fetch(`${server.base}/api/stems/slices`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ slices }),
    signal,
  });
/** What comes, by number: floats, or null where the stem is not there. */
async function slices(asked: readonly Asked[]): Promise<(number[] | null)[]> {
  const answer = await post(asked);
  expect(answer.status).toBe(200);
  const got: (number[] | null)[] = [];
  const stream = new SliceStream(({ number, depth }, samples) => {
    expect(number).toBe(got.length);
    got.push(isLack(depth) ? null : [...floatsOf(samples, depth)]);
  });
  stream.push(new Uint8Array(await answer.arrayBuffer()));
  stream.end();
  return got;
}
const pcm = async ({ stem, start, frames }: Asked) => [
  ...new Float32Array(
    await (await fetch(`${server.base}/api/stems/${stem}/pcm?start=${start}&frames=${frames}`)).arrayBuffer(),
  ),
];
const bring = async (file: Uint8Array) =>
  (await server.ask('POST', '/stems?name=a.wav&rate=48000', file)).body.stem as string;

const NOWHERE = `sha256:${'0'.repeat(64)}`;

it('parts of many stems come in one answer, as each by itself', async () => {
  const stems: string[] = [];
  for (const [k, bits] of (['16', '24', '32', '32f'] as const).entries()) {
    const wav = new WaveFile();
    const noise = randomBytes(4 * 40_001);
    const value = (i: number) =>
      bits === '32f' ? noise.readInt32LE(i * 4) / 2 ** 31 : noise.readInt32LE(i * 4) >> (32 - Number(bits));
    wav.fromScratch(
      1 + (k % 2),
      48000,
      bits,
      k % 2
        ? [0, 1].map((c) => Array.from({ length: 20_000 }, (_, i) => value(i * 2 + c)))
        : Array.from({ length: 40_001 }, (_, i) => value(i)),
    );
    stems.push(await bring(wav.toBuffer()));
  }
  // A long silence in the middle has no rows.
  const quiet = toneFile(60_000);
  quiet.fill(0, 58 + 4 * 8000, 58 + 4 * 50_000);
  stems.push(await bring(quiet));
  const asked = stems.flatMap((stem) =>
    [
      [0, 16384],
      [16384, 16384],
      [4031, 3],
      [19_990, 100],
      [40_000, 5],
      [59_000, 65536],
      [900_000, 10],
    ].map(([start, frames]) => ({ stem, start: start!, frames: frames! })),
  );
  const got = await slices(asked);
  expect(got).toHaveLength(asked.length);
  for (const [n, a] of asked.entries()) expect(got[n], JSON.stringify(a)).toEqual(await pcm(a));
});

it('stems that are not there are told, and one that went and came again is found', async () => {
  const file = toneFile(3000, 1, 48000, 321);
  const stem = await bring(file);
  const one = { stem, start: 10, frames: 5 };
  const gone = { stem: NOWHERE, start: 0, frames: 5 };
  expect((await slices([gone, one])).map((s) => s?.length ?? null)).toEqual([null, 5]);
  await StemRow.destroy({ where: { sha256: stem.slice(7) } });
  expect(await slices([one])).toEqual([null]);
  await bring(file);
  expect(await slices([one, gone])).toEqual([await pcm(one), null]);
});

it('refuses what is no question, and more than an answer holds', async () => {
  const one = { stem: NOWHERE, start: 0, frames: 5 };
  for (const bad of [
    [],
    [{ ...one, stem: 'sha256:x' }],
    [{ ...one, start: -1 }],
    [{ ...one, frames: 0 }],
    [{ ...one, frames: 65537 }],
    Array.from({ length: 513 }, () => one),
  ])
    expect((await post(bad)).status).toBe(400);
});

it('whoever hangs up in the middle holds nothing', async () => {
  const stem = await bring(toneFile(65_536, 2, 48000, 87));
  const asked = Array.from({ length: 200 }, () => ({ stem, start: 0, frames: 65_536 }));
  for (let k = 0; k < 12; k++) {
    const stop = new AbortController();
    const answer = await post(asked, stop.signal);
    await answer.body!.getReader().read();
    stop.abort();
  }
  // Ten connections are all that there are for audio.
  expect((await slices([{ stem, start: 5, frames: 3 }]))[0]).toHaveLength(6);
});
