import { h } from 'vue';
import { levelSpoken } from '@core/levels/decibels';
import { travelOf } from '@core/levels/faderLaw';
import { stripOf } from '@core/session/lookup';
import type { Send, Strip } from '@core/session/types';
import type { MenuItem } from '@/ui/menu';
import { shorten } from '@core/surface/shortNames';
import { stepOf } from '../zoom';
import type { RowKind, Spot } from './kind';
import type { SheetTools } from './tools';
import { say } from '../texts';

/** The send of a strip that is on and loudest; one that is off where none is on. */
const loudestOf = ({ sends }: Strip): Send | undefined =>
  [...sends].sort(
    (a, b) => Number(b.on) - Number(a.on) || (b.levelDb ?? -Infinity) - (a.levelDb ?? -Infinity),
  )[0];

const items = (t: SheetTools, { strip }: Spot): readonly MenuItem[] => [
  ...t.strip(strip).sends.map((x): MenuItem => ({
    label: say('sendToNameLevel', {
      name: stripOf(t.doc(), x.to).name || x.to,
      level: levelSpoken(x.levelDb),
    }),
    checked: x.on,
    run: () =>
      t.session.commit(say('sendToNamed', { name: stripOf(t.doc(), x.to).name || x.to }), [
        { type: 'send.set', strip, id: x.id, patch: { on: !x.on } },
      ]),
  })),
  { label: say('showAllSends'), run: () => t.commands.run('sends-all') },
];

/** All sends of a strip in one cell: the loudest as a bar, and where it goes. */
export const loudest: RowKind = {
  kind: 'loudest',
  fold: 'sends',
  far: 14,
  rows: () => [],
  sees: ({ strip, width, characters }) => [strip.sends, stepOf(width), characters],
  draw({ strip, width, characters }) {
    const x = loudestOf(strip);
    if (!x) return stepOf(width) === 'far' ? [] : [h('span', { class: 'dot' }, '·')];
    const share = Math.max(0.08, travelOf(x.levelDb));
    const colour = x.on ? { background: 'var(--send)' } : { border: '1px solid var(--send)' };
    // From the floor after the fader, from the ceiling before it, as in a row of its own; near, beside it where it goes.
    const near = stepOf(width) === 'near';
    const height = `${share * (near ? 8 : 12)}px`;
    const inset = x.tap === 'post' ? 'auto 1px 1px' : '1px 1px auto';
    const name = [
      shorten(x.to, Math.max(2, characters - 2)),
      strip.sends.length > 1 ? ` +${strip.sends.length - 1}` : '',
    ];
    return [
      h('i', { style: { inset, height, ...colour } }),
      near && h('span', { class: 'tiny', style: { marginTop: x.tap === 'post' ? '-8px' : '8px' } }, name),
    ];
  },
  speak({ strip }) {
    const x = loudestOf(strip);
    return x
      ? say('sendsLoudest', { sends: strip.sends.length, to: x.to, level: levelSpoken(x.levelDb) })
      : say('sendsNone');
  },
  press: (t, spot, e) => ({
    mode: 'open',
    clicked: () => t.menu.open(say('sendsTitle'), items(t, spot), { x: e.clientX, y: e.clientY }),
  }),
  turn: () => 'done',
  resets: () => false,
  enter: (t, spot, at) => t.menu.open(say('sendsTitle'), items(t, spot), at),
  menu: (t, spot) => ({ title: say('sendsTitle'), items: items(t, spot) }),
};
