import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newStrip } from '@core/session/defaults';
import type { Session } from '@core/session/types';
import { sessions } from '@core/testing/arbitraries';
import { demoSession } from '../../demo/session';
import { bandsOf, columnAt, columnsOf, edgesOf, stripsIn } from './columns';

const demo = demoSession();
const none = new Set<string>();
const bands = (by: Parameters<typeof columnsOf>[1], folded: ReadonlySet<string> = none) =>
  bandsOf(columnsOf(demo, by, folded).sources).map((b) => [b.label, b.from, b.count]);

describe('columns of the Sheet', () => {
  it('stand in bands of neighbours of one family', () =>
    expect(bands('session').slice(0, 3)).toEqual([
      ['Percussion', 0, 6],
      ['Bass', 6, 3],
      ['Keys', 9, 2],
    ]));
  it('grouped by family bring those together that stand apart', () => {
    const labels = bands('family').map(([label]) => label);
    expect(new Set(labels).size).toBe(labels.length);
    expect(bands('session').map(([label]) => label).length).toBeGreaterThan(labels.length);
    expect(bands('family').find(([label]) => label === 'Keys')![2]).toBe(3);
  });
  it('grouped by kind are one band of sources; by colour a band a colour', () => {
    expect(bands('kind')).toEqual([['Sources', 0, 31]]);
    const colours = new Set(
      demo.strips.filter((s) => s.kind === 'source').map((s) => s.colour.toLowerCase()),
    );
    expect(
      bands('colour')
        .map(([label]) => label)
        .sort((a, b) => (a! < b! ? -1 : 1)),
    ).toEqual([...colours].sort());
  });
  it('grouped by submix stand under what they feed, by its name', () => {
    const list = bands('submix');
    const fed = demo.strips.filter((s) => s.kind === 'source');
    const goals = new Set(fed.map((s) => s.out.to));
    expect(list).toHaveLength(goals.size);
    for (const to of goals) {
      const name = demo.strips.find((s) => s.id === to)!.name;
      expect(list.find(([label]) => label === name)![2]).toBe(fed.filter((s) => s.out.to === to).length);
    }
  });
  it('by family and then by submix stand in bands within bands, each once', () => {
    const { sources } = columnsOf(demo, 'nested', none);
    const outer = bandsOf(sources);
    const inner = bandsOf(sources, 1);
    expect(outer.map((b) => b.label)).toEqual(
      bandsOf(columnsOf(demo, 'family', none).sources).map((b) => b.label),
    );
    expect(new Set(inner.map((b) => b.fold)).size).toBe(inner.length);
    expect(inner.length).toBeGreaterThan(outer.length);
    // Each inner band lies wholly within one outer, and together they are all of it.
    for (const o of outer) {
      const within = inner.filter((b) => b.from >= o.from && b.from + b.count <= o.from + o.count);
      expect(within.flatMap((b) => b.strips)).toEqual(o.strips);
      for (const b of within)
        for (const id of b.strips) {
          const s = demo.strips.find((x) => x.id === id)!;
          expect([s.family, demo.strips.find((x) => x.id === s.out.to)?.name]).toEqual([o.label, b.label]);
        }
    }
  });
  it('of bands within bands are folded one by one, or whole', () => {
    const all = columnsOf(demo, 'nested', none).sources;
    const outer = bandsOf(all).find(
      (b) => bandsOf(all, 1).filter((x) => x.fold.startsWith(`${b.label} ›`)).length > 1,
    )!;
    const [first] = bandsOf(all, 1).filter((x) => x.fold.startsWith(`${outer.label} ›`));
    const one = columnsOf(demo, 'nested', new Set([first!.fold])).sources;
    expect(one).toHaveLength(all.length - first!.count + 1);
    expect(stripsIn(one.find((c) => c.fold)!).map((s) => s.id)).toEqual(first!.strips);
    expect(bandsOf(one).find((b) => b.label === outer.label)).toMatchObject({
      folded: false,
      strips: outer.strips,
    });
    expect(bandsOf(one, 1).find((b) => b.fold === first!.fold)).toMatchObject({ folded: true, count: 1 });
    const whole = columnsOf(demo, 'nested', new Set([outer.label, first!.fold])).sources;
    expect(whole).toHaveLength(all.length - outer.count + 1);
    expect(bandsOf(whole).find((b) => b.label === outer.label)).toMatchObject({ folded: true, count: 1 });
    expect(bandsOf(whole, 1).some((b) => b.fold === first!.fold)).toBe(false);
  });
  it('of a folded band are one, which holds its strips', () => {
    const { sources } = columnsOf(demo, 'session', new Set(['Percussion']));
    expect(sources[0]).toMatchObject({ strip: null, band: 'Percussion' });
    expect(stripsIn(sources[0]!).map((s) => s.id)).toEqual([
      'skin',
      'rim',
      'stomp',
      'shaker',
      'claps-l',
      'claps-r',
    ]);
    expect(sources).toHaveLength(31 - 5);
    expect(bandsOf(sources)[0]).toMatchObject({ folded: true, count: 1 });
    expect(bandsOf(sources)[0]!.strips).toHaveLength(6);
  });
  it('of submixes stand behind the last of what feeds them, in its band, where that is asked for', () => {
    const kit: Session = {
      ...demo,
      strips: [
        newStrip({ id: 'drums', kind: 'submix', name: 'Drums', out: { to: 'main', on: true } }),
        ...demo.strips.map((s) => (s.id === 'percussion' ? { ...s, out: { to: 'drums', on: true } } : s)),
        newStrip({ id: 'spare', kind: 'submix', name: 'Spare', out: { to: 'main', on: true } }),
      ],
    };
    for (const by of ['session', 'family', 'submix', 'nested'] as const) {
      const { sources, landing } = columnsOf(kit, by, none, true);
      const ids = sources.map((c) => c.id);
      const feeders = kit.strips.filter((s) => s.kind === 'source' && s.out.to === 'percussion');
      const last = Math.max(...feeders.map((s) => ids.indexOf(s.id)));
      // The one that collects another stands behind it; one that nothing feeds at the end.
      expect(ids.slice(last + 1, last + 3)).toEqual(['percussion', 'drums']);
      expect(ids.at(-1)).toBe('spare');
      expect(landing.map((c) => c.strip!.kind)).not.toContain('submix');
      expect(sources[last + 1]!.band).toBe(sources[last]!.band);
      const band = bandsOf(sources).find((b) => b.from <= last && last < b.from + b.count)!;
      expect(band.strips).not.toContain('percussion');
      expect(band.from + band.count).toBeGreaterThan(last + 2);
    }
    // Folded, the band is one column, and its submix stands beside it under the same name.
    const folded = columnsOf(kit, 'session', new Set(['Percussion']), true).sources;
    expect(folded.slice(0, 3).map((c) => c.id)).toEqual([folded[0]!.id, 'percussion', 'drums']);
    expect(bandsOf(folded)[0]).toMatchObject({ label: 'Percussion', folded: true, count: 3 });
    expect(bandsOf(folded)[0]!.strips).toHaveLength(6);
    // By kind they are a kind of their own.
    expect(columnsOf(kit, 'kind', none, true)).toEqual(columnsOf(kit, 'kind', none));
  });
  it('hold every strip that is not hidden just once, however they are grouped and folded', () => {
    fc.assert(
      fc.property(
        sessions(12),
        fc.constantFrom('session', 'family', 'submix', 'colour', 'kind'),
        fc.boolean(),
        fc.boolean(),
        (s, by, fold, beside) => {
          const labels = new Set(columnsOf(s, by as 'family', none).sources.map((c) => c.band));
          const { sources, landing } = columnsOf(s, by, fold ? labels : none, beside);
          // What is done with bands is done with sources, each of one band.
          const banded = bandsOf(sources).flatMap((b) => b.strips);
          expect(new Set(banded).size).toBe(banded.length);
          const ids = [...sources, ...landing].flatMap(stripsIn).map((t) => t.id);
          expect([...ids].sort()).toEqual(
            s.strips
              .filter((t) => !t.hidden)
              .map((t) => t.id)
              .sort(),
          );
        },
      ),
    );
  });
  it('of different widths are found by where they stand', () => {
    const { sources } = columnsOf(demo, 'session', none);
    const widths = [34, 50, 96];
    const edges = edgesOf(sources, (c) => widths[sources.indexOf(c) % 3]!);
    expect(edges.slice(0, 5)).toEqual([0, 34, 84, 180, 214]);
    sources.forEach((_, i) => {
      expect(columnAt(edges, edges[i]!)).toBe(i);
      expect(columnAt(edges, edges[i + 1]! - 0.5)).toBe(i);
    });
    expect(columnAt(edges, edges.at(-1)!)).toBe(sources.length);
    expect(columnAt([0], 10)).toBe(0);
  });
});
