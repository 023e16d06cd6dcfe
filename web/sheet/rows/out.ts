import { h } from 'vue';
import { monitoredOutput, stripOf } from '@core/session/lookup';
import { shorten } from '@core/surface/shortNames';
import type { RowKind, Spot } from './kind';
import type { SheetTools } from './tools';
import { say } from '../texts';

/** First channels of the pairs by which an output can leave. */
const PAIRS = [1, 3, 5, 7, 9, 11, 13, 15];

/** Where the dry path of a strip goes, or by which channels an output leaves. */
function menu(t: SheetTools, { strip }: Spot) {
  const own = t.strip(strip);
  if (own.kind !== 'output') {
    const group = t.group(strip).filter((id) => t.strip(id).kind !== 'output');
    return { title: say('outOfNamed', { named: t.named('', group).trim() }), items: t.outItems(group) };
  }
  const heard = monitoredOutput(t.doc())?.id === strip;
  return {
    title: say('nameLeavesPairPair2', {
      name: own.name || strip,
      pair: own.pair,
      pair2: (own.pair ?? 1) + 1,
    }),
    items: [
      {
        label: heard ? say('thisOutputIsHeard') : say('hearThisOutput'),
        checked: heard,
        run: () => t.hear(strip),
      },
      ...PAIRS.map((pair) => ({
        label: say('channelsPairPair2', { pair, pair2: pair + 1 }),
        checked: own.pair === pair,
        run: () =>
          t.session.commit(say('channelsOfName', { name: own.name || strip }), [
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
  far: null,
  middle: null,
  rows: () => [{ key: 'out', label: say('out'), height: 26 }],
  sees: ({ strip, outName, width, characters }) => [
    strip.kind,
    strip.out.on,
    outName,
    width > 80,
    characters,
  ],
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
  speak: ({ strip, outName }) =>
    say('outToOutnameOn', { outName, on: strip.out.on ? '' : say('dryPathOff') }),
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
