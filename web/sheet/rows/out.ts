import { h } from 'vue';
import { monitoredOutput, stripOf } from '@core/session/lookup';
import { shorten } from '@core/surface/shortNames';
import type { RowKind, Spot } from './kind';
import type { SheetTools } from './tools';

/** First channels of the pairs by which an output can leave. */
const PAIRS = [1, 3, 5, 7, 9, 11, 13, 15];

/** Where the dry path of a strip goes, or by which channels an output leaves. */
function menu(t: SheetTools, { strip }: Spot) {
  const own = t.strip(strip);
  if (own.kind !== 'output') {
    const group = t.group(strip).filter((id) => t.strip(id).kind !== 'output');
    return { title: `Out of ${t.named('', group).trim()}`, items: t.outItems(group) };
  }
  const heard = monitoredOutput(t.doc())?.id === strip;
  return {
    title: `${own.name || strip} leaves by ${own.pair}–${(own.pair ?? 1) + 1}`,
    items: [
      {
        label: heard ? 'This output is heard' : 'Hear this output',
        checked: heard,
        run: () => t.hear(strip),
      },
      ...PAIRS.map((pair) => ({
        label: `Channels ${pair}–${pair + 1}`,
        checked: own.pair === pair,
        run: () =>
          t.session.commit(`channels of ${own.name || strip}`, [
            { type: 'strip.set', id: strip, patch: { pair } },
          ]),
      })),
    ],
  };
}
const open: NonNullable<RowKind['enter']> = (t, spot, at) => {
  const { title, items } = menu(t, spot);
  t.menu.open(title, items, at);
};

/** The dry path. */
export const out: RowKind = {
  kind: 'out',
  rows: () => [{ key: 'out', label: 'Out', height: 26 }],
  draw({ strip, outName, width, characters }) {
    const whole = width > 80 || strip.kind === 'output';
    return [
      h(
        'span',
        { class: ['out-name', { off: !strip.out.on }] },
        whole ? outName : shorten(outName, characters + 1),
      ),
    ];
  },
  speak: ({ strip, outName }) => `out to ${outName}${strip.out.on ? '' : ', dry path off'}`,
  press: (t, spot, e) => ({ mode: 'open', clicked: () => open(t, spot, { x: e.clientX, y: e.clientY }) }),
  turn: () => 'paint',
  paint(session, { strip }, to) {
    const { out } = stripOf(session, strip);
    return to
      .filter((id) => stripOf(session, id).kind !== 'output' && id !== out.to)
      .map((id) => ({ type: 'strip.out', id, out }));
  },
  enter: open,
  menu,
};
