import { h } from 'vue';
import { fitLine, fitName } from '@core/naming/fitName';
import { resetStrips } from '@core/operations/inserts';
import { kindWord } from '@/session/words';
import KindShape from '@/ui/KindShape.vue';
import StripIcon from '@/ui/StripIcon.vue';
import { stepOf } from '../zoom';
import type { RowKind } from './kind';
import { say } from '../texts';

const MENU = [
  'rename',
  'icon',
  'trace',
  'ripple',
  'meters',
  'keepMeters',
  'gather',
  'return',
  'vca',
  'link',
  'copySettings',
  'pasteSettings',
  'pasteParts',
  'presets',
  'bypass',
  'resetStrips',
  'soloSafe',
  'pinLeft',
  'pinRight',
  'hide',
  'remove',
];

/** How a name stands where it does not fit across. */
const UPRIGHT = {
  writingMode: 'vertical-rl',
  lineHeight: 1,
  textAlign: 'start',
  maxHeight: 'calc(100% - 26px)',
  textOverflow: 'ellipsis',
} as const;

/** Letters of a name that find room so. */
const UPRIGHT_LETTERS = 14;

/** A strip's name, kind and number: where it is picked and moved. */
export const cap: RowKind = {
  kind: 'cap',
  far: 20,
  middle: 116,
  rows: () => [{ key: 'cap', label: '', height: 62 }],
  sees: ({ strip, name, width, characters, number, picked, audible, units }) => [
    strip.kind,
    strip.icon,
    strip.colour,
    stepOf(width),
    name,
    characters,
    number,
    picked,
    audible,
    units,
  ],
  draw({ strip, name, width, characters, number, units, picked }) {
    const step = stepOf(width);
    // From afar a block of its colour, with a bar where hands are on it.
    if (step === 'far')
      return [
        h('i', { style: { inset: 0, background: picked ? 'var(--picked)' : 'var(--family)' } }),
        units && h('i', { style: { inset: 'auto 0 0', height: '3px', background: 'var(--signal)' } }),
      ];
    const shape = h(KindShape, { kind: strip.kind, class: 'kind' });
    const hands = units
      ? [h('span', { class: 'hands mono', title: say('underHandsUnits', { units }) }, units)]
      : [];
    const icon = (more?: object) => {
      const style = { position: 'absolute', bottom: 0, opacity: 0.85, ...more };
      return strip.icon !== 'none' && h(StripIcon, { icon: strip.icon, size: 12, style });
    };
    // Names stand upright where they do not fit across.
    if (step === 'middle')
      return [
        shape,
        h(
          'span',
          { class: 'name d-block overflow-hidden', style: UPRIGHT, title: name },
          fitLine(name, UPRIGHT_LETTERS),
        ),
        !units && icon(),
        ...hands,
      ];
    return [
      shape,
      h(
        'span',
        { class: 'name', title: name },
        fitName(name, characters, 3).map((line) => h('span', line)),
      ),
      icon({ left: '3px' }),
      h('span', { class: 'number mono' }, number),
      ...hands,
    ];
  },
  speak: ({ strip, picked, audible, units }) =>
    `${kindWord(strip.kind)}${picked ? say('picked') : ''}${audible ? '' : say('silencedByASolo')}${units ? `, ${say('underHandsUnits', { units })}` : ''}`,
  press({ pick }, { strip }, e) {
    const add = e.ctrlKey || e.metaKey;
    if (e.shiftKey) pick.range(strip, add ? pick.chosen : undefined);
    else if (add) pick.toggle(strip);
    else if (pick.chosen.has(strip)) {
      // A press on a picked name moves what is picked; without a move it picks that one alone, or none.
      const one = pick.chosen.size === 1;
      return { mode: 'move', clicked: () => (one ? pick.none() : pick.only(strip)) };
    } else pick.only(strip);
    return { mode: 'pick' };
  },
  // Where a column is narrow, two clicks that pick are no wish to begin anew.
  resets: ({ width }) => stepOf(width) === 'near',
  enter: (t, spot) => t.type(spot),
  reset(t, { strip }, alone) {
    const group = t.group(strip, alone);
    const what = t.named(say('defaultsOf'), group);
    if (t.session.change(what, (s) => resetStrips(s, group)))
      t.notices.done(say('allAsNew', { what: what.charAt(0).toUpperCase() + what.slice(1) }));
  },
  remove(t, { strip }) {
    if (!t.pick.chosen.has(strip)) t.pick.only(strip);
    t.commands.run('remove');
  },
  menu(t, { strip }) {
    return {
      title: t.named('', t.group(strip)).trim(),
      items: t.commands.menuItems(MENU).map((item) => ({
        ...item,
        run() {
          if (!t.pick.chosen.has(strip)) t.pick.only(strip);
          item.run();
        },
      })),
    };
  },
};
