import { h } from 'vue';
import { panText } from '@core/levels/pan';
import { laneState, type RowKind } from './kind';
import { valueRow } from './value';
import { say } from '../texts';

/** Share of the cell's width from its middle to a side. */
const REACH = 36;
export const panAt = (pan: number) => `${50 + pan * REACH}%`;

/** Pan, or balance. */
export const pan: RowKind = {
  kind: 'pan',
  far: null,
  middle: 18,
  fold: 'pan',
  rows: () => [{ key: 'pan', label: say('panTitle'), height: 24 }],
  ...valueRow(
    () => ({ kind: 'pan' }),
    () => 'pan',
    [0.05, 0.01],
  ),
  sees: ({ strip }) => [strip.pan],
  draw: ({ strip }) => [
    h('i', { class: 'pan-line' }),
    strip.pan !== 0 &&
      h('i', {
        class: 'pan-gap',
        style: { left: panAt(Math.min(0, strip.pan)), width: `${Math.abs(strip.pan) * REACH}%` },
      }),
    h('i', { class: 'pan-mark', style: { left: panAt(strip.pan) } }),
  ],
  speak: ({ strip }) => say('panPan', { pan: panText(strip.pan) }),
  lanes: (column) => laneState(column, 'strip', null, column.strip.lanes, 'pan'),
  moved: (now, pixels) => (now ?? 0) + pixels / 60,
  menu(t, spot) {
    return {
      title: say('panOfName', { name: t.strip(spot.strip).name || spot.strip }),
      items: [
        { label: say('toTheCentre'), keys: 'Backspace', run: () => pan.reset!(t, spot) },
        t.laneItem({ part: 'strip', owner: spot.strip, id: null, control: 'pan' }),
      ],
    };
  },
};
