/**
 * Names for narrow displays: no longer than `length`, and distinct among those that are shown together. What is the same in
 * neighbours goes first, what tells them apart stays: `Choir soprano`, `Choir alto` in seven characters become
 * `ChrSopr`, `ChrAlto`.
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

const ascii = (name: string) =>
  name
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/ß/g, 'ss')
    .replace(/[^\x20-\x7e]/g, '?')
    .trim();

const unvowelled = (word: string) => word.charAt(0) + word.slice(1).replace(/[aeiou]/gi, '');
const capital = (word: string) => word.charAt(0).toUpperCase() + word.slice(1);

/** One name by itself: whole where it fits, else each word cut to its share, the last word keeping the most. */
export function shorten(name: string, length: number): string {
  const clean = ascii(name);
  if (clean.length <= length) return clean;
  const words = clean.split(/\s+/).map(capital);
  if (words.join('').length <= length) return words.join('');
  if (words.length === 1) {
    const bare = unvowelled(words[0]!);
    return (bare.length >= length ? bare : words[0]!).slice(0, length);
  }
  const last = words[words.length - 1]!;
  const others = words.slice(0, -1);
  // The last word tells neighbours apart; it gets what three letters a word before it leave.
  const room = Math.max(Math.ceil(length / 2), length - others.length * 3);
  const tail = last.length <= room ? last : unvowelled(last).length >= room ? unvowelled(last).slice(0, room) : last.slice(0, room);
  const left = length - tail.length;
  const each = Math.max(1, Math.floor(left / others.length));
  const head = others
    .map((w, i) => {
      const n = i === 0 ? left - each * (others.length - 1) : each;
      return (w.length <= n ? w : unvowelled(w).length >= n ? unvowelled(w) : w).slice(0, Math.max(0, n));
    })
    .join('');
  return (head + tail).slice(0, length);
}
