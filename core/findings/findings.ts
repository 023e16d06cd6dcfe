import { effectiveLevel } from '../groups/vca';
import { stripMap } from '../session/lookup';
import type { Command } from '../edits/commands';
import type { Session } from '../session/types';
import type { Id } from '../base/units';
import { signalGraph } from '../session/graph';
import { clipping } from './clipping';
import { comb, doubled } from './copies';
import { downSends, emptyVca, noStem, samePair, silentKey, unfed } from './feeds';
import type { Context, Finding, Peaks, Rule, Stems } from './finding';
import { idleLanes } from './idleLanes';
import { lateLive } from './lateLive';
import { duplicateNames, unnamed } from './names';
import { heardKey, noPath, soloLeft, unusedKey } from './paths';
import { deadReturn, dryOnReturn, notSoloSafe, preFaderLeft } from './returns';
import { sameEffect } from './sameEffect';
import { clippedStem, monoLoss, sameStem, shiftedPair, silentStem, unevenFamily, unevenStart } from './stems';
import { countedTwice, drivesProcessors } from './vcas';

/** Every rule there is, in the order in which its findings are told within one severity. */
export const rules: readonly Rule[] = [
  noPath,
  silentKey,
  clipping,
  sameStem,
  countedTwice,
  soloLeft,
  dryOnReturn,
  doubled,
  comb,
  deadReturn,
  preFaderLeft,
  downSends,
  idleLanes,
  samePair,
  unfed,
  noStem,
  clippedStem,
  silentStem,
  monoLoss,
  shiftedPair,
  drivesProcessors,
  heardKey,
  unusedKey,
  emptyVca,
  unnamed,
  duplicateNames,
  notSoloSafe,
  sameEffect,
  unevenFamily,
  unevenStart,
  lateLive,
];
export const ruleTitle = (id: string): string => rules.find((r) => r.id === id)?.title ?? id;

const calm = (session: Session): Session => ({
  ...session,
  strips: session.strips.some((s) => s.solo)
    ? session.strips.map((s) => (s.solo ? { ...s, solo: false } : s))
    : session.strips,
  vcas: session.vcas.some((v) => v.solo)
    ? session.vcas.map((v) => (v.solo ? { ...v, solo: false } : v))
    : session.vcas,
});

export function contextOf(original: Session, peaks: Peaks | null, stems: Stems | null): Context {
  const session = calm(original);
  const { entering } = signalGraph(session);
  const reachesOutput = new Set(session.strips.filter((s) => s.kind === 'output').map((s) => s.id));
  const todo = [...reachesOutput];
  while (todo.length)
    for (const e of entering.get(todo.pop()!)!)
      if (e.kind !== 'key' && e.on && !reachesOutput.has(e.from)) {
        reachesOutput.add(e.from);
        todo.push(e.from);
      }
  const keys = new Set<Id>();
  for (const s of session.strips) for (const i of s.inserts) if (i.key !== null && i.on) keys.add(i.key);
  return {
    session,
    soloed: {
      strips: original.strips.filter((s) => s.solo),
      vcas: original.vcas.filter((v) => v.solo),
    },
    strips: stripMap(session),
    peaks,
    stems,
    reachesOutput,
    keys,
    effective: (strip) => effectiveLevel(session, strip),
  };
}

const SEVERITIES = ['fault', 'risk', 'note'] as const;

/**
 * What is wrong, or likely wrong, with the routing: the gravest first. Those that were dismissed are among them; their
 * keys stand in the session.
 * @param peaks what a print measured at every strip; without it clipping is not looked for
 * @param stems what it measured of the stems; without it they are taken to be sound
 */
export function findings(
  session: Session,
  peaks: Peaks | null = null,
  stems: Stems | null = null,
): readonly Finding[] {
  const context = contextOf(session, peaks, stems);
  const found: Finding[] = [];
  for (const rule of rules)
    for (const f of rule.find(context))
      found.push({ ...f, rule: rule.id, key: f.key === undefined ? rule.id : `${rule.id} ${f.key}` });
  return found
    .map((f, i) => ({ f, i }))
    .sort((a, b) => SEVERITIES.indexOf(a.f.severity) - SEVERITIES.indexOf(b.f.severity) || a.i - b.i)
    .map(({ f }) => f);
}

/** Lets a finding stand, or brings it back. */
export const dismiss = (session: Session, key: string, dismissed = true): readonly Command[] => [
  {
    type: 'session.set',
    patch: {
      dismissed: dismissed
        ? [...session.dismissed.filter((k) => k !== key), key]
        : session.dismissed.filter((k) => k !== key),
    },
  },
];

/** Lets many findings stand, in one step. */
export const dismissAll = (session: Session, found: readonly Finding[]): readonly Command[] => {
  const keys = new Set(found.map((f) => f.key));
  return [
    {
      type: 'session.set',
      patch: { dismissed: [...session.dismissed.filter((k) => !keys.has(k)), ...keys] },
    },
  ];
};
