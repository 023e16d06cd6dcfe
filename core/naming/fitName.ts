import { keepable } from '../base/text';

/** A word that fits: cut with a point where it is longer. */
export const fitWord = (word: string, most: number): string =>
  word.length <= most ? word : `${keepable(word, Math.max(1, most - 1)) || keepable(word, 12)}.`;

/**
 * A name in a few short lines, for a narrow column: words stay whole where they fit, short ones share a line, long ones
 * are cut with a point. What does not fit in the lines is left out in the middle: the last word tells neighbours apart.
 * @param most characters of a line
 */
export function fitName(name: string, most: number, lines: number): readonly string[] {
  const words = name
    .trim()
    .split(/\s+/)
    .filter(Boolean)
    .map((w) => fitWord(w, most));
  const rows: string[] = [];
  for (const word of words) {
    const last = rows.at(-1);
    if (last !== undefined && last.length + 1 + word.length <= most)
      rows[rows.length - 1] = `${last} ${word}`;
    else rows.push(word);
  }
  return rows.length <= lines ? rows : [...rows.slice(0, lines - 1), rows.at(-1)!];
}

/** Fewer letters than a word is cut to. */
const LEAST = 3;
/**
 * A name on one line: its longest words are cut with a point until it fits, but for the last, which tells neighbours apart.
 * @param most characters of the line; where nothing can be cut any more it is longer
 */
export function fitLine(name: string, most: number): string {
  const words = name.trim().split(/\s+/);
  const first = words.slice(0, -1);
  const length = () => [...first, words.at(-1)!].join(' ').length;
  while (length() > most) {
    const longest = Math.max(0, ...first.map((w) => w.length));
    if (longest <= LEAST) break;
    const at = first.findIndex((w) => w.length === longest);
    // A word that was cut already ends in its point.
    const shorter = fitWord(words[at]!, longest - 1);
    // One letter of many signs is not cut.
    if (shorter.length >= longest) break;
    first[at] = shorter;
  }
  return [...first, words.at(-1)!].join(' ');
}
