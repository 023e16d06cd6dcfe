import { h } from 'vue';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { toggleFlag } from '@core/operations/strips';
import type { MenuItem } from '@/ui/menu';
import type { Column, RowKind } from './kind';
import { valueRow } from './value';
import { say } from '../texts';

const preampText = ({ preamp }: Column) =>
  preamp === 'settled' ? say('preamplifierConfirmed') : say('preamplifierAskedNotConfirmed');

/** Trim, polarity, swap and width, and whether the preamplifier has confirmed. */
export const input: RowKind = {
  kind: 'input',
  far: null,
  middle: null,
  fold: 'input',
  rows: () => [{ key: 'input', label: say('inputTitle'), height: 24 }],
  ...valueRow(
    () => ({ kind: 'input' }),
    () => 'trim',
  ),
  sees: ({ strip: s, preamp }) => [s.trimDb, s.invert, s.swap, s.channels, s.width, preamp],
  draw(column) {
    const { strip: s, preamp } = column;
    const said = [
      s.trimDb !== 0 && h('span', { class: 'mono' }, levelText(s.trimDb)),
      preamp &&
        h('span', { class: ['preamp', preamp], title: preampText(column) }, preamp === 'settled' ? '▸' : '?'),
      s.invert && h('span', { title: say('polarityInverted') }, 'ø'),
      s.swap && h('span', { title: say('leftAndRightSwapped') }, '⇄'),
      s.channels === 2 &&
        s.width !== 1 &&
        h('span', { class: 'mono', title: say('width') }, `w${s.width.toFixed(1)}`),
    ].filter((x) => x !== false && x !== null);
    return said.length ? said : [h('span', { class: 'dot' }, '·')];
  },
  speak(column) {
    const { strip: s, preamp } = column;
    return say('preampTrimLevelInvertSwap', {
      preamp: preamp ? `${preampText(column)}, ` : '',
      level: levelSpoken(s.trimDb),
      invert: s.invert ? say('polarityInverted2') : '',
      swap: s.swap ? say('sidesSwapped') : '',
    });
  },
  moved: (now, pixels) => (now ?? -80) + Math.round(pixels) * 0.25,
  menu(t, { strip }) {
    const s = t.strip(strip);
    const group = t.group(strip);
    const flag = (f: 'invert' | 'swap', label: string): MenuItem => ({
      label,
      checked: s[f],
      run: () =>
        t.session.change(t.named(f === 'invert' ? say('polarityOf') : say('swap'), group), (d) =>
          toggleFlag(d, group, f),
        ),
    });
    return {
      title: say('inputTitle'),
      items: [
        flag('invert', say('invertPolarity')),
        ...(s.channels === 2 ? [flag('swap', say('swapLeftAndRight'))] : []),
      ],
    };
  },
};
