import { h } from 'vue';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { levelAt, travelOf } from '@core/levels/faderLaw';
import type { Decibels } from '@core/base/units';
import { laneState, LEVEL_FOOT, LEVEL_TOP, type Row, type RowKind } from './kind';
import { stepOf } from '../zoom';
import { valueRow } from './value';
import { say } from '../texts';

const range = (row: Row) => row.height - LEVEL_TOP - LEVEL_FOOT;
/** Pixels from the row's top at which a level stands. */
export const levelY = (level: Decibels, row: Row) => LEVEL_TOP + (1 - travelOf(level)) * range(row);

/** The fader: the strip's own level, and the effective one where VCAs and automation make another of it. */
export const level: RowKind = {
  kind: 'level',
  far: 0,
  rows: () => [{ key: 'level', label: say('level'), height: 0 }],
  ...valueRow(
    () => ({ kind: 'level' }),
    () => 'level',
  ),
  sees: ({ strip, held, effective, width }) => [strip.faderDb, held, effective, stepOf(width), width < 40],
  draw({ strip, held, effective, width }, row) {
    const differs = held && effective !== strip.faderDb;
    const own = levelY(strip.faderDb, row);
    const now = levelY(effective, row);
    const step = stepOf(width);
    // From afar a mark tells the level, and a line how far others move it.
    const left = step === 'middle' ? { left: '7px' } : {};
    const handle = step === 'middle' ? { left: '1px', width: '12px' } : {};
    if (step === 'far')
      return [
        differs &&
          h('i', {
            style: {
              ...{ left: 0, width: '2px', background: 'var(--signal)' },
              ...{ top: `${Math.min(own, now)}px`, height: `${Math.abs(own - now)}px` },
            },
          }),
        h('i', {
          style: {
            ...{ left: 0, right: '50%', height: '3px', background: 'var(--ink)' },
            top: `${own - 1.5}px`,
          },
        }),
      ];
    return [
      h('i', { class: 'track', style: { ...left, top: `${LEVEL_TOP}px`, bottom: `${LEVEL_FOOT}px` } }),
      h('i', { class: 'unity', style: { ...left, top: `${levelY(0, row)}px` } }),
      differs &&
        h('i', {
          class: 'gap',
          style: { ...left, top: `${Math.min(own, now)}px`, height: `${Math.abs(own - now)}px` },
        }),
      differs && h('i', { class: 'ghost', style: { ...left, top: `${now}px` } }),
      h('i', { class: 'handle', style: { ...handle, top: `${own}px` } }),
      step === 'near' &&
        h('span', { class: ['value mono', { tight: width < 40, held: differs }] }, levelText(strip.faderDb)),
    ];
  },
  speak: ({ strip, held, effective }) =>
    say('levelLevelHeld', {
      level: levelSpoken(strip.faderDb),
      held: held ? say('effectiveLevel', { level: levelSpoken(effective) }) : '',
    }),
  lanes: (column) => laneState(column, 'strip', null, column.strip.lanes, 'fader'),
  press(t, hit) {
    // Below the fader stands its number, which is typed; above it the mark of clipping, which is cleared.
    if (hit.y > hit.row.height - LEVEL_FOOT) return { mode: 'open', clicked: () => t.type(hit) };
    if (hit.y < LEVEL_TOP) return { mode: 'open', clicked: () => t.transport.player?.clearPeaks() };
    return { mode: 'open' };
  },
  moved: (now, pixels, row) => levelAt(Math.max(0, Math.min(1, travelOf(now) + pixels / range(row)))),
  resets: (hit) => hit.y <= hit.row.height - LEVEL_FOOT,
  menu(t, spot) {
    return {
      title: say('levelOfName', { name: t.strip(spot.strip).name || spot.strip }),
      items: [
        { label: say('to0Db'), keys: 'Backspace', run: () => level.reset!(t, spot) },
        t.laneItem({ part: 'strip', owner: spot.strip, id: null, control: 'fader' }),
      ],
    };
  },
};
