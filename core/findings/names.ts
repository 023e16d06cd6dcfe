import type { Command } from '../edits/commands';
import type { Strip } from '../session/types';
import { listed, type Rule } from './finding';

const KIND = { source: 'Source', submix: 'Submix', return: 'Return', output: 'Output' } as const;

/** Names that nothing in the session bears yet. */
function freeName(taken: Set<string>, base: string, from: number): string {
  for (let n = from; ; n++) {
    const name = `${base} ${n}`;
    if (taken.has(name)) continue;
    taken.add(name);
    return name;
  }
}

export const unnamed: Rule = {
  id: 'unnamed',
  title: 'Strips without a name',
  *find({ session }) {
    const without = session.strips.filter((s) => s.name.trim() === '');
    if (without.length === 0) return;
    const taken = new Set(session.strips.map((s) => s.name));
    const number = { source: 1, submix: 1, return: 1, output: 1 };
    const commands = without.map((s): Command => {
      const file = s.stem && !s.stem.startsWith('sha256:') ? /([^/]+)\.wav$/i.exec(s.stem)?.[1] : undefined;
      const name = file && !taken.has(file) ? file : freeName(taken, KIND[s.kind], number[s.kind]++);
      taken.add(name);
      return { type: 'strip.set', id: s.id, patch: { name } };
    });
    yield {
      severity: 'risk',
      sure: 'certain',
      what:
        without.length === 1
          ? `A ${without[0]!.kind} (\`${without[0]!.id}\`) has no name.`
          : `${without.length} strips have no name.`,
      why: 'Whoever opens the session next cannot tell what they are, and a surface shows them blank.',
      where: without.map((s) => s.id),
      repair: { label: without.length === 1 ? 'Give it a name' : 'Give them names', commands },
    };
  },
};

export const duplicateNames: Rule = {
  id: 'duplicate-names',
  title: 'Names that stand twice',
  *find({ session }) {
    const byName = new Map<string, Strip[]>();
    for (const s of session.strips) {
      const name = s.name.trim().toLowerCase();
      if (name === '') continue;
      const list = byName.get(name);
      if (list) list.push(s);
      else byName.set(name, [s]);
    }
    const taken = new Set(session.strips.map((s) => s.name));
    for (const [name, same] of byName) {
      if (same.length < 2) continue;
      yield {
        key: name,
        severity: 'note',
        sure: 'certain',
        what: `${same.length} strips are called “${same[0]!.name}”: ${listed(same.map((s) => `\`${s.id}\``))}.`,
        why: 'They cannot be told apart on a surface, in a list of sends, or as printed files.',
        where: same.map((s) => s.id),
        repair: {
          label: 'Number them',
          commands: same.slice(1).map((s): Command => ({
            type: 'strip.set',
            id: s.id,
            patch: { name: freeName(taken, s.name.trim(), 2) },
          })),
        },
      };
    }
  },
};
