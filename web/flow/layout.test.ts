import ELK from 'elkjs/lib/elk.bundled.js';
import { expect, it, vi } from 'vitest';
import { newSession, newStrip } from '@core/session/defaults';
import type { Session } from '@core/session/types';
import { flowGraph } from './flowModel';
import { laidOut, NODE_WIDTH } from './layout';

vi.mock('elkjs/lib/elk-worker.min.js?url', () => ({ default: '' }));

const base = newSession('Stages');
const source = (id: string, to: string | null) =>
  newStrip({ id, kind: 'source', name: id, out: { to, on: true } });
const session: Session = {
  ...base,
  strips: [
    source('a', 'bus'),
    source('b', 'bus'),
    source('alone', null),
    newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } }),
    newStrip({ id: 'spare', kind: 'submix', name: 'Spare', out: { to: null, on: true } }),
    ...base.strips,
    newStrip({ id: 'cans', kind: 'output', name: 'Cans', out: { to: null, on: true } }),
  ],
};

it('every output stands at the right and every source at the left, also those that nothing is joined to', async () => {
  const placed = await new ELK().layout(laidOut(flowGraph(session, new Set())));
  const x = (id: string) => placed.children!.find((c) => c.id === id)!.x!;
  expect([x('b'), x('alone')]).toEqual([x('a'), x('a')]);
  expect(x('cans')).toBe(x('main'));
  for (const id of ['a', 'alone', 'bus', 'spare']) expect(x(id) + NODE_WIDTH).toBeLessThan(x('main'));
  // Nothing lies upon anything else.
  const all = placed.children!;
  for (const a of all)
    for (const b of all)
      if (a !== b && Math.abs(a.x! - b.x!) < NODE_WIDTH)
        expect(Math.abs(a.y! - b.y!)).toBeGreaterThanOrEqual(34);
});
