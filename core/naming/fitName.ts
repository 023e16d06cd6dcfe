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
