import { h } from 'vue';
import { fitName } from '@core/naming/fitName';
import { resetStrips } from '@core/operations/inserts';
import { kindWord } from '@/session/words';
import KindShape from '@/ui/KindShape.vue';
import type { RowKind } from './kind';
import { say } from '../texts';

const MENU = [
  'rename',
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

/** A strip's name, kind and number: where it is picked and moved. */
export const cap: RowKind = {
  kind: 'cap',
  rows: () => [{ key: 'cap', label: '', height: 62 }],
  sees: ({ strip, name, characters, number, picked, audible, units }) => [
    strip.kind,
    name,
    characters,
    number,
    picked,
    audible,
    units,
  ],
  draw: ({ strip, name, characters, number, units }) => [
    h(KindShape, { kind: strip.kind, class: 'kind' }),
    h(
      'span',
      { class: 'name', title: name },
      fitName(name, characters, 3).map((line) => h('span', line)),
    ),
    h('span', { class: 'number mono' }, number),
    ...(units ? [h('span', { class: 'hands mono', title: say('underHandsUnits', { units }) }, units)] : []),
  ],
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
