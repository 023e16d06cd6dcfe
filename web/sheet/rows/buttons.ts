import { h } from 'vue';
import { toggleFlag } from '@core/session/gestures/strips';
import { stripOf } from '@core/session/lookup';
import { laneState, type RowKind } from './kind';

const FLAGS = [
  ['mute', 'Mute', 'mute'],
  ['solo', 'Solo', 'solo'],
  ['soloSafe', 'Solo-safe', 'solo-safe'],
] as const;

/** Mute and solo. */
export const buttons: RowKind = {
  kind: 'buttons',
  rows: () => [{ key: 'buttons', label: 'Mute, solo', height: 28 }],
  draw: ({ strip }) => [
    h('span', { class: ['button mute', { on: strip.mute }] }, 'M'),
    h(
      'span',
      {
        class: ['button solo', { on: strip.solo, safe: strip.soloSafe }],
        title: strip.soloSafe ? 'Solo-safe' : undefined,
      },
      'S',
    ),
  ],
  speak: ({ strip: s }) =>
    `${s.mute ? 'muted' : 'not muted'}, ${s.solo ? 'soloed' : 'not soloed'}${s.soloSafe ? ', solo-safe' : ''}`,
  lanes: (column) => laneState(column, 'strip', null, column.strip.lanes, 'mute'),
  press(t, hit) {
    const session = t.session.base()!;
    const which = hit.x < hit.width / 2 ? 'mute' : 'solo';
    const to = !stripOf(session, hit.strip)[which];
    return {
      mode: 'paint',
      stroke: {
        label: to ? which : `un${which}`,
        commands: (ids) =>
          ids
            .filter((id) => stripOf(session, id)[which] !== to)
            .map((id) => ({ type: 'strip.set', id, patch: { [which]: to } })),
      },
    };
  },
  enter(t, { strip }) {
    const group = t.group(strip);
    t.session.change(t.named('mute', group), (d) => toggleFlag(d, group, 'mute'));
  },
  menu(t, { strip }) {
    const group = t.group(strip);
    return {
      title: `Mute, solo of ${t.strip(strip).name || strip}`,
      items: [
        ...FLAGS.map(([flag, label, called]) => ({
          label,
          checked: t.strip(strip)[flag],
          run: () => t.session.change(t.named(called, group), (d) => toggleFlag(d, group, flag)),
        })),
        t.laneItem({ part: 'strip', owner: strip, id: null, control: 'mute' }),
      ],
    };
  },
};
