import { h } from 'vue';
import { setMembers } from '@core/operations/vcas';
import { vcaOf } from '@core/session/lookup';
import type { MenuItem } from '@/ui/menu';
import type { Column, RowKind, Spot } from './kind';
import type { SheetTools } from './tools';
import { say } from '../texts';

/** Pixels between the threads of the braid. */
export const THREAD = 4;
export const braidHeight = (vcas: number) => vcas * THREAD + 5;

/** A thread is thick where it holds, and thin where it passes by. */
const thread = (on: boolean, by: boolean) => ({
  height: on ? '3px' : '1px',
  background: on || by ? 'var(--signal)' : 'none',
  opacity: on ? 1 : 0.35,
});
/** VCAs that hold a strip, by the marks over its column, of which there is one for every VCA. */
const held = ({ rails }: Column) => rails.map((mark) => mark === 'knot' || mark === 'via');

function items(t: SheetTools, { strip }: Spot): readonly MenuItem[] {
  return t.doc().vcas.map((v): MenuItem => {
    const member = v.members.includes(strip);
    const label = say('threadOfVca', { name: v.name || v.id });
    return {
      label,
      checked: member,
      run: () => {
        t.pick.rail = v.id;
        t.session.change(`${member ? say('letGoFrom') : say('holdBy')} ${v.name || v.id}`, (d) =>
          setMembers(d, vcaOf(d, v.id).id, t.group(strip), !member),
        );
      },
    };
  });
}

/** All rails as thin threads, each with a mark on the strips that it holds. */
export const braid: RowKind = {
  kind: 'braid',
  rows: () => [],
  sees: (column) => [column.rails],
  draw: (column) =>
    held(column).map((on, k) =>
      h('i', {
        style: {
          inset: `${k * THREAD + 2}px 0 auto`,
          ...thread(on, column.rails[k] === 'line'),
        },
      }),
    ),
  speak: (column) =>
    held(column).some((on) => on)
      ? say('heldByCount', { count: held(column).filter((on) => on).length })
      : say('heldByNone'),
  press: (t, spot, e) => ({
    mode: 'open',
    clicked: () => t.menu.open(say('heldByTitle'), items(t, spot), { x: e.clientX, y: e.clientY }),
  }),
  turn: () => 'done',
  resets: () => false,
  enter: (t, spot, at) => t.menu.open(say('heldByTitle'), items(t, spot), at),
  menu: (t, spot) => ({ title: say('heldByTitle'), items: items(t, spot) }),
};
