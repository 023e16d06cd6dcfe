import { iconFor } from '../core/naming/icons';
import { FAMILIES } from '../core/naming/lexicon';
import { newInsert, newSend, newSession, newStrip, newVca } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';

/** Sources of a large session, by family: a name, and how many of it. All invented. */
const SOURCES: readonly (readonly [family: string, name: string, count: number])[] = [
  ['Percussion', 'Frame drum', 6],
  ['Percussion', 'Clay pot', 4],
  ['Percussion', 'Rim shaker', 6],
  ['Percussion', 'Deep skin', 4],
  ['Bass', 'Low reed', 4],
  ['Bass', 'Bowed bass', 3],
  ['Guitars', 'Marsh guitar', 8],
  ['Guitars', 'Twelve string', 6],
  ['Guitars', 'Slide', 5],
  ['Keys', 'Harbour organ', 5],
  ['Keys', 'Glass keys', 7],
  ['Strings', 'Tide viola', 8],
  ['Strings', 'Tide cello', 6],
  ['Winds', 'Fog horn', 5],
  ['Winds', 'Reed choir', 7],
  ['Lead', 'Lead', 3],
  ['Lead', 'Lead double', 4],
  ['Choir', 'Low choir', 9],
  ['Choir', 'High choir', 9],
  ['Effects', 'Gulls', 6],
  ['Effects', 'Rope and sail', 5],
];
const RETURNS = ['Hall', 'Plate', 'Slap', 'Long tail', 'Room', 'Spring', 'Echo', 'Wide', 'Shimmer', 'Crush'];

/**
 * A session of the size that studios meet, without stems: 120 sources, nine submixes, ten returns, eight VCAs, one output. The
 * same every time.
 */
export function largeSession(name = 'Harbour Mass'): Session {
  const id = (text: string) => text.toLowerCase().replace(/[^a-z0-9]+/g, '-');
  const families = [...new Set(SOURCES.map(([family]) => family))];
  const icon = (strip: string, family: string, kind: string) => iconFor({ name: strip, family, kind });
  const colour = (family: string) => FAMILIES.find((f) => f.name === family)!.colour;
  const sources: Strip[] = SOURCES.flatMap(([family, source, count], s) =>
    Array.from({ length: count }, (_, k): Strip => {
      const n = s * 7 + k * 3;
      const own = id(`${source} ${k + 1}`);
      return {
        ...newStrip({
          ...{ id: own, kind: 'source', name: `${source} ${k + 1}`, family, colour: colour(family) },
          ...{
            icon: icon(source, family, 'source'),
            channels: n % 3 === 0 ? 2 : 1,
            out: { to: id(`${family} bus`), on: true },
          },
          ...{ faderDb: -18 + (n % 17), pan: ((n % 9) - 4) / 4 },
        }),
        inserts: [
          newInsert({ id: `${own}-eq`, type: 'equalizer' }),
          ...(n % 2 ? [newInsert({ id: `${own}-comp`, type: 'compressor', on: n % 5 !== 0 })] : []),
        ],
        sends: RETURNS.flatMap((to, r) =>
          (n + r) % 4 === 0
            ? [
                newSend({
                  id: `${own}-${r}`,
                  to: id(to),
                  levelDb: -24 + ((n + r) % 20),
                  tap: r % 5 ? 'post' : 'pre',
                }),
              ]
            : [],
        ),
        mute: n % 23 === 0,
      };
    }),
  );
  const buses = families.map((family) =>
    newStrip({
      ...{ id: id(`${family} bus`), kind: 'submix', name: `${family} bus`, family, colour: colour(family) },
      ...{ icon: icon(family, family, 'submix'), channels: 2, out: { to: 'main', on: true } },
    }),
  );
  const returns = RETURNS.map((to, r) => ({
    ...newStrip({
      ...{
        id: id(to),
        kind: 'return',
        name: to,
        icon: icon(to, '', 'return'),
        channels: 2,
        faderDb: -6,
        out: { to: 'main', on: true },
      },
    }),
    inserts: [newInsert({ id: `${id(to)}-wet`, type: r % 3 === 2 ? 'delay' : 'reverb' })],
  }));
  const empty = newSession(name, 48000);
  return {
    ...empty,
    strips: [...sources, ...buses, ...returns, ...empty.strips],
    vcas: families.slice(0, 8).map((family) =>
      newVca({
        ...{ id: `vca-${id(family)}`, name: family, icon: icon(family, family, 'vca') },
        members: sources.filter((s) => s.family === family).map((s) => s.id),
      }),
    ),
  };
}
