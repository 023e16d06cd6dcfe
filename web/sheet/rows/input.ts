import { h } from 'vue';
import { levelSpoken, levelText } from '@core/levels/decibels';
import { toggleFlag } from '@core/session/gestures/strips';
import type { MenuItem } from '@/ui/menu';
import type { Column, RowKind } from './kind';
import { valueRow } from './value';

const preampText = ({ preamp }: Column) =>
  preamp === 'settled' ? 'Preamplifier: confirmed' : 'Preamplifier: asked, not confirmed';

/** Trim, polarity, swap and width, and whether the preamplifier has confirmed. */
export const input: RowKind = {
  kind: 'input',
  fold: 'input',
  rows: () => [{ key: 'input', label: 'Input', height: 24 }],
  ...valueRow(
    () => ({ kind: 'input' }),
    () => 'trim',
  ),
  draw(column) {
    const { strip: s, preamp } = column;
    const said = [
      s.trimDb !== 0 && h('span', { class: 'mono' }, levelText(s.trimDb)),
      preamp &&
        h('span', { class: ['preamp', preamp], title: preampText(column) }, preamp === 'settled' ? '▸' : '?'),
      s.invert && h('span', { title: 'Polarity inverted' }, 'ø'),
      s.swap && h('span', { title: 'Left and right swapped' }, '⇄'),
      s.channels === 2 &&
        s.width !== 1 &&
        h('span', { class: 'mono', title: 'Width' }, `w${s.width.toFixed(1)}`),
    ].filter((x) => x !== false && x !== null);
    return said.length ? said : [h('span', { class: 'dot' }, '·')];
  },
  speak(column) {
    const { strip: s, preamp } = column;
    return `${preamp ? `${preampText(column)}, ` : ''}trim ${levelSpoken(s.trimDb)}${s.invert ? ', polarity inverted' : ''}${s.swap ? ', sides swapped' : ''}`;
  },
  moved: (now, pixels) => (now ?? -80) + Math.round(pixels) * 0.25,
  menu(t, { strip }) {
    const s = t.strip(strip);
    const group = t.group(strip);
    const flag = (f: 'invert' | 'swap', label: string): MenuItem => ({
      label,
      checked: s[f],
      run: () =>
        t.session.change(t.named(f === 'invert' ? 'polarity of' : 'swap', group), (d) =>
          toggleFlag(d, group, f),
        ),
    });
    return {
      title: 'Input',
      items: [
        flag('invert', 'Invert polarity'),
        ...(s.channels === 2 ? [flag('swap', 'Swap left and right')] : []),
      ],
    };
  },
};
