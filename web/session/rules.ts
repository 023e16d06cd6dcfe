/** A check of what stands in a field: true, or what is wrong with it. */
export type Rule = (value: unknown) => Promise<true | string>;

/** A rule by its name; the descriptions come when something is typed first, as they are large. */
const rule =
  (which: 'sessionName' | 'name' | 'bpm'): Rule =>
  async (value) =>
    (await import('./fieldRules'))[which](value);

export const sessionName: readonly Rule[] = [rule('sessionName')];
/** Of a strip, a VCA, a link or a section. */
export const name: readonly Rule[] = [rule('name')];
export const bpm: readonly Rule[] = [rule('bpm')];

/** What is wrong with a value by the first rule that it breaks; null where it keeps all. */
export async function broken(rules: readonly Rule[], value: unknown): Promise<string | null> {
  for (const rule of rules) {
    const answer = await rule(value);
    if (answer !== true) return answer;
  }
  return null;
}
/** Whether a value keeps all rules. */
export const keeps = async (rules: readonly Rule[], value: unknown): Promise<boolean> =>
  (await broken(rules, value)) === null;
