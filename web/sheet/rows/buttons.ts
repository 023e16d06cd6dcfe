import { h } from 'vue';
import { toggleFlag } from '@core/operations/strips';
import { stripOf } from '@core/session/lookup';
import { stepOf } from '../zoom';
import { laneState, type RowKind } from './kind';
import { say } from '../texts';

const flags = () =>
  [
    ['mute', say('muteTitle'), say('mute')],
    ['solo', say('soloTitle'), say('solo')],
    ['soloSafe', say('soloSafeTitle'), say('soloSafe')],
  ] as const;

/** Mute and solo. */
export const buttons: RowKind = {
  kind: 'buttons',
  far: 24,
  middle: 36,
  rows: () => [{ key: 'buttons', label: say('muteSolo'), height: 28 }],
  sees: ({ strip, width }) => [strip.mute, strip.solo, strip.soloSafe, stepOf(width)],
  draw({ strip, width }) {
    const step = stepOf(width);
    // From afar marks alone: mute in the upper half, solo in the lower one.
    if (step === 'far')
      return [
        strip.mute && h('i', { style: { inset: '1px 1px 50%', background: 'var(--alert)' } }),
        strip.solo && h('i', { style: { inset: '50% 1px 1px', background: 'var(--caution)' } }),
      ];
    const style = step === 'middle' ? { lineHeight: '15px' } : undefined;
    const both = [
      h('span', { class: ['button mute', { on: strip.mute }], style }, 'M'),
      h(
        'span',
        {
          class: ['button solo', { on: strip.solo, safe: strip.soloSafe }],
          title: strip.soloSafe ? say('soloSafeTitle') : undefined,
          style,
        },
        'S',
      ),
    ];
    return step === 'middle' ? [h('div', { class: 'd-flex flex-column w-100' }, both)] : both;
  },
  speak: ({ strip: s }) =>
    [
      s.mute ? say('muted') : say('notMuted'),
      s.solo ? say('soloed') : say('notSoloed'),
      ...(s.soloSafe ? [say('soloSafe')] : []),
    ].join(', '),
  lanes: (column) => laneState(column, 'strip', null, column.strip.lanes, 'mute'),
  press(t, hit) {
    const session = t.session.base()!;
    // Where they do not fit beside each other they stand above each other.
    const first = stepOf(hit.width) === 'near' ? hit.x < hit.width / 2 : hit.y < hit.row.height / 2;
    const which = first ? 'mute' : 'solo';
    const to = !stripOf(session, hit.strip)[which];
    return {
      mode: 'paint',
      stroke: {
        label: which === 'mute' ? (to ? say('mute') : say('unmute')) : to ? say('solo') : say('unsolo'),
        commands: (ids) =>
          ids
            .filter((id) => stripOf(session, id)[which] !== to)
            .map((id) => ({ type: 'strip.set', id, patch: { [which]: to } })),
      },
    };
  },
  enter(t, { strip }) {
    const group = t.group(strip);
    t.session.change(t.named(say('mute'), group), (d) => toggleFlag(d, group, 'mute'));
  },
  menu(t, { strip }) {
    const group = t.group(strip);
    return {
      title: say('muteSoloOfName', { name: t.strip(strip).name || strip }),
      items: [
        ...flags().map(([flag, label, called]) => ({
          label,
          checked: t.strip(strip)[flag],
          run: () => t.session.change(t.named(called, group), (d) => toggleFlag(d, group, flag)),
        })),
        t.laneItem({ part: 'strip', owner: strip, id: null, control: 'mute' }),
      ],
    };
  },
};
