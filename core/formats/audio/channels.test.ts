import { expect, it } from 'vitest';
import { WaveFile } from 'wavefile';
import { readAudioHeader } from './audioFile';
import { groupsOf, takeChannels } from './channels';
import { depthBytes, DEPTHS } from './samples';

const places = (channels: number, mask: number | null) =>
  groupsOf({ channels, mask }).map(({ channels: c, place }) => [place, ...c]);

// "Multiple Channel Audio Data and WAVE Files" (Microsoft, 2001): the bits of the mask, and that channels stand in their order.
it.each([
  [
    '5.1',
    6,
    0x3f,
    [
      ['front', 0, 1],
      ['centre', 2],
      ['lfe', 3],
      ['rear', 4, 5],
    ],
  ],
  [
    '5.1 with sides',
    6,
    0x60f,
    [
      ['front', 0, 1],
      ['centre', 2],
      ['lfe', 3],
      ['side', 4, 5],
    ],
  ],
  [
    '7.1',
    8,
    0x63f,
    [
      ['front', 0, 1],
      ['centre', 2],
      ['lfe', 3],
      ['rear', 4, 5],
      ['side', 6, 7],
    ],
  ],
  [
    'quadro',
    4,
    0x33,
    [
      ['front', 0, 1],
      ['rear', 2, 3],
    ],
  ],
  [
    'a pair with its middle between',
    3,
    0x7000,
    [
      ['top front', 0, 2],
      ['top front centre', 1],
    ],
  ],
  [
    'a left one without its right',
    3,
    0x15,
    [
      ['front.l', 0],
      ['centre', 1],
      ['rear.l', 2],
    ],
  ],
  [
    'more channels than the mask tells',
    4,
    0x3,
    [
      ['front', 0, 1],
      ['3', 2],
      ['4', 3],
    ],
  ],
  [
    'more in the mask than there are channels',
    3,
    0x3f,
    [
      ['front', 0, 1],
      ['centre', 2],
    ],
  ],
  [
    'no mask',
    3,
    null,
    [
      ['1', 0],
      ['2', 1],
      ['3', 2],
    ],
  ],
  ['stereo, whatever its mask', 2, 0x30, [[null, 0, 1]]],
  ['mono', 1, 0x4, [[null, 0]]],
] as const)('%s is taken apart by its mask', (_what, channels, mask, wanted) => {
  expect(places(channels, mask)).toEqual(
    wanted.map(([place, ...c]) => [
      String(place)
        .replace(/\.[lr]$/, '')
        .replace('null', '') || null,
      ...c,
    ]),
  );
});

it('every channel comes in once, whatever is told', () => {
  for (let channels = 1; channels <= 18; channels++)
    for (let mask = 0; mask < 1 << 18; mask += 97)
      expect(
        groupsOf({ channels, mask: mask || null })
          .flatMap((g) => [...g.channels])
          .sort((a, b) => a - b),
      ).toEqual(Array.from({ length: channels }, (_, c) => c));
});

// Against the npm package wavefile, which writes the extended format with its mask.
it('a file of six channels tells its mask, and its samples go where they belong at every depth', () => {
  const wav = new WaveFile();
  const channel = (c: number) => Array.from({ length: 50 }, (_, i) => c * 1000 + i);
  wav.fromScratch(
    6,
    48000,
    '16',
    Array.from({ length: 6 }, (_, c) => channel(c)),
  );
  // The package writes the mask, and yet the tag of the format without one.
  (wav.fmt as { audioFormat: number }).audioFormat = 0xfffe;
  const file = Buffer.from(wav.toBuffer());
  const facts = readAudioHeader(file)!;
  expect(facts).toMatchObject({ channels: 6, frames: 50, mask: 0x3f });
  const kept = file.subarray(facts.dataOffset, facts.dataOffset + 600);
  const rear = groupsOf(facts).find((g) => g.place === 'rear')!;
  const taken = Buffer.from(takeChannels(kept, 's16', 6, rear));
  for (let i = 0; i < 50; i++)
    expect([taken.readInt16LE(i * 4), taken.readInt16LE(i * 4 + 2)]).toEqual([4000 + i, 5000 + i]);
  for (const depth of DEPTHS) {
    const size = depthBytes(depth);
    const bytes = Uint8Array.from({ length: 3 * 5 * size }, (_, i) => i);
    const got = takeChannels(bytes, depth, 3, { channels: [2], place: null });
    const wanted = Array.from({ length: 5 }, (_, i) => [
      ...bytes.slice((i * 3 + 2) * size, (i * 3 + 3) * size),
    ]);
    expect([...got]).toEqual(wanted.flat());
  }
});
