import { h } from 'vue';
import { setMembers } from '@core/operations/vcas';
import { vcaOf } from '@core/session/lookup';
import type { RowKind, Spot } from './kind';
import type { SheetTools } from './tools';
import { say } from '../texts';

const hold = (t: SheetTools, { strip, row }: Spot, held: boolean) =>
  t.session.change(`${held ? say('holdBy') : say('letGoFrom')} ${row.label}`, (d) =>
    setMembers(d, row.ref!, t.group(strip), held),
  );

/** A VCA over the strips that it holds: a line, with a knot on each member. */
export const rail: RowKind = {
  kind: 'rail',
  rows: (session) =>
    session.vcas.map((v, index) => ({
      ...{ key: `rail:${v.id}`, label: v.name || v.id, ref: v.id, index, height: 24 },
    })),
  sees: ({ rails }, row) => [rails[row.index!]],
  draw({ rails }, row) {
    const mark = rails[row.index!];
    return [
      mark !== 'none' && h('i', { class: 'rail-line' }),
      (mark === 'knot' || mark === 'via') && h('i', { class: ['knot', mark] }),
    ];
  },
  speak: ({ rails }, row) =>
    `${rails[row.index!] === 'knot' ? say('heldBy') : say('notHeldBy')} ${row.label}`,
  press(t, { strip, row }) {
    const session = t.session.base()!;
    const vca = vcaOf(session, row.ref!);
    const held = !vca.members.includes(strip);
    return {
      mode: 'paint',
      stroke: {
        label: `${held ? say('holdBy') : say('letGoFrom')} ${vca.name}`,
        commands: (ids) => setMembers(session, vca.id, ids, held),
      },
    };
  },
  enter: (t, spot) => hold(t, spot, !vcaOf(t.doc(), spot.row.ref!).members.includes(spot.strip)),
  remove: (t, spot) => hold(t, spot, false),
};
