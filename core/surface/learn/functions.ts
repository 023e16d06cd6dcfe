import { processors } from '../../processors/registry';
import { acrosses } from '../encoders/across/registry';
import { keyRoles } from '../keys/registry';
import type { EncoderControl, FaderControl, KeyControl, Steers } from '../profile/profile';

/** Something that a control can be for, as it is chosen from a list. */
export interface ControlUse {
  /** The same for the same use. */
  readonly id: string;
  readonly name: string;
  readonly decided:
    { readonly steers: Steers | null } | { readonly key: Pick<KeyControl, 'role' | 'action'> };
}

/** Returns, or bands, that can be chosen by their number. */
const NUMBERED = 6;
const OF: Readonly<Record<'place' | 'picked' | 'main', string>> = {
  place: 'of the strip at its place',
  picked: 'of the picked strip',
  main: 'of the main output',
};

const steersId = (s: Steers | null): string =>
  s === null
    ? 'desk'
    : [
        s.type,
        s.type === 'across' ? `${s.what} ${s.nth ?? ''}` : `${s.processor} ${s.parameter}`,
        s.of,
        s.strip ?? '',
      ].join('|');
/** What a thing is called by itself: `Pan`, `Send to a return 2`, `Compressor: Threshold`. */
function whatIs(s: Steers): string {
  if (s.type === 'across') {
    const name = acrosses.find((a) => a.id === s.what)?.name ?? s.what;
    return s.nth === null ? name : `${name}, the ${s.nth + 1}.`;
  }
  const processor = processors.find((p) => p.type === s.processor);
  const parameter = processor?.parameters.find((p) => p.id === s.parameter);
  return `${processor?.name ?? s.processor}: ${[parameter?.group, parameter?.name].filter(Boolean).join(' ') || s.parameter}`;
}
/** @param named what a strip is called */
export const steersName = (s: Steers | null, named: (id: string) => string): string =>
  s === null
    ? 'what the desk lays on it'
    : `${whatIs(s)}, ${s.of === 'strip' ? `of ${named(s.strip ?? '')}` : OF[s.of]}`;

const use = (steers: Steers | null): ControlUse => ({
  id: steersId(steers),
  name: steersName(steers, (id) => id),
  decided: { steers },
});
/** All that a fader, a knob or an encoder can be for. */
export const moverUses: readonly ControlUse[] = [
  use(null),
  ...acrosses.flatMap((kind) => {
    const numbers = [null, ...(kind.choices ? Array.from({ length: NUMBERED }, (_, n) => n) : [])];
    return (['place', 'picked', ...(kind.id === 'level' ? (['main'] as const) : [])] as const).flatMap((of) =>
      numbers.map((nth) => use({ type: 'across', what: kind.id, nth, of, strip: null })),
    );
  }),
  ...processors.flatMap((p) =>
    p.parameters.map((q) =>
      use({ type: 'parameter', processor: p.type, parameter: q.id, of: 'picked', strip: null }),
    ),
  ),
];
/** All that a key can be for. @param actions of the page's palette */
export const keyUses = (
  actions: readonly { readonly id: string; readonly title: string }[],
): readonly ControlUse[] => [
  ...keyRoles
    .filter((r) => r.id !== 'action')
    .map((r): ControlUse => ({
      id: `role|${r.id}`,
      name: r.name,
      decided: { key: { role: r.id, action: null } },
    })),
  ...actions.map((a): ControlUse => ({
    id: `action|${a.id}`,
    name: a.title,
    decided: { key: { role: 'action', action: a.id } },
  })),
];
/** The use that a control has now. */
export const useOf = (c: FaderControl | EncoderControl | KeyControl): string =>
  c.kind !== 'key' ? steersId(c.steers) : c.role === 'action' ? `action|${c.action ?? ''}` : `role|${c.role}`;
