import fc from 'fast-check';
import { expect, it } from 'vitest';
import { SLICE_HEAD_BYTES, sliceHead, slicePad, SliceStream, type SliceHead } from './slices';
import { channelInto, DEPTHS, depthBytes, floatsOf } from './samples';

const slice = fc
  .record({
    depth: fc.constantFrom(...DEPTHS),
    channels: fc.constantFrom(1 as const, 2 as const),
    frames: fc.nat(40),
  })
  .chain(({ depth, channels, frames }) =>
    fc.record({
      depth: fc.constant(depth),
      channels: fc.constant(channels),
      frames: fc.constant(frames),
      samples: fc.uint8Array({
        minLength: frames * channels * depthBytes(depth),
        maxLength: frames * channels * depthBytes(depth),
      }),
    }),
  );

it('slices come back as they went, in whatever pieces they arrive, the missing ones too', () => {
  fc.assert(
    fc.property(
      fc.array(slice, { maxLength: 12 }),
      fc.array(fc.integer({ min: 1, max: 90 })),
      (slices, cuts) => {
        const bytes = Buffer.concat([
          ...slices.flatMap(({ depth, channels, frames, samples }, n) => [
            sliceHead(n, depth, channels, frames),
            samples,
            new Uint8Array(slicePad(samples.length)),
          ]),
          sliceHead(slices.length, 'gone', 1, 0),
        ]);
        expect(bytes.length % 4).toBe(0);
        const got: [SliceHead, number[]][] = [];
        const stream = new SliceStream((head, samples) => got.push([head, [...samples]]));
        let at = 0;
        for (const n of [...cuts, bytes.length]) {
          stream.push(bytes.subarray(at, at + n));
          at += n;
        }
        stream.end();
        expect(got.slice(0, -1)).toEqual(
          slices.map(({ depth, channels, frames, samples }, number) => [
            { number, depth, channels, frames, bytes: samples.length },
            [...samples],
          ]),
        );
        expect(got.at(-1)![0]).toMatchObject({ number: slices.length, depth: 'gone', bytes: 0 });
      },
    ),
    { numRuns: 60 },
  );
});
it('says when an answer was cut off', () => {
  const stream = new SliceStream(() => {});
  stream.push(sliceHead(0, 's16', 1, 10));
  stream.push(new Uint8Array(SLICE_HEAD_BYTES));
  expect(() => stream.end()).toThrow(/cut off/);
});
it('one channel of a slice is what all of it is, from any frame on, into more room than there is or less', () => {
  fc.assert(
    fc.property(slice, fc.nat(45), fc.nat(45), ({ depth, channels, samples }, from, room) => {
      const all = floatsOf(Uint8Array.from(samples), depth);
      for (let c = 0; c < channels; c++) {
        const into = new Float32Array(room).fill(7);
        const there = channelInto({ bytes: Uint8Array.from(samples), depth, channels }, c, from, into);
        const wanted = all.filter((_, i) => i % channels === c).slice(from, from + room);
        expect(there).toBe(wanted.length);
        expect(into).toEqual(Float32Array.from({ length: room }, (_, i) => (i < there ? wanted[i]! : 7)));
      }
    }),
  );
});
