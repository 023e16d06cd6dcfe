/**
 * Names for narrow displays: no longer than `length`, and distinct among those that are shown together. `Choir soprano`, `Choir alto` in
 * seven characters become `ChoSopr`, `ChoAlto`; where two would be the same, they are numbered.
 */
export function shortNames(names: readonly string[], length: number): readonly string[] {
  const short = names.map((n) => shorten(n, length));
  const count = new Map<string, number>();
  for (const s of short) count.set(s, (count.get(s) ?? 0) + 1);
  const used = new Set(short.filter((s) => count.get(s) === 1));
  return short.map((s) => {
    if (s === '' || count.get(s) === 1) return s;
    for (let n = 1; ; n++) {
      const mark = String(n);
      const numbered = s.slice(0, length - mark.length) + mark;
      if (!used.has(numbered)) {
        used.add(numbered);
        return numbered;
      }
    }
  });
}

/** A text in the characters that every display has. */
export const ascii = (name: string) =>
  name
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/ß/g, 'ss')
    .replace(/[^\x20-\x7e]/g, '?')
    .trim();

const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/**
 * One name by itself: whole where it fits, without its spaces where that fits, else each word cut to its share. Letters
 * are dealt out one word after another, beginning with the last, which tells neighbours apart.
 */
export function shorten(name: string, length: number): string {
  const clean = ascii(name);
  if (clean.length <= length) return clean;
  const words = clean.split(/\s+/).map(capital);
  const shares = words.map(() => 0);
  let left = length;
  while (left > 0 && words.some((w, i) => shares[i]! < w.length))
    for (let i = words.length - 1; i >= 0 && left > 0; i--)
      if (shares[i]! < words[i]!.length) {
        shares[i]!++;
        left--;
      }
  return words.map((w, i) => w.slice(0, shares[i])).join('');
}
