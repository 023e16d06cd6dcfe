/*
 * Address patterns of OSC 1.0 ("OSC Message Dispatching and Pattern Matching"): `?` any one character, `*` any number of them, `[abc]`, `[a-z]`
 * and `[!a-z]` one of a list or none of it, `{one,two}` one of several texts. No part of a pattern matches across a slash.
 */

/** Given where it begins in a text, the places where it may end. */
type Piece = (text: string, from: number) => readonly number[];

/** Any number of characters: from the first place at which it may begin it may end anywhere. */
const ANY: Piece = (text, from) => Array.from({ length: text.length - from + 1 }, (_, i) => from + i);

/** Whether a part of an address is a pattern, and not a name. */
export const isPattern = (part: string): boolean => /[?*[\]{}]/.test(part);

/** One of a list of characters, in which `-` between two stands for all between them, and `!` at its beginning for all others. */
function listed(list: string): Piece {
  const not = list.startsWith('!');
  const chars = not ? list.slice(1) : list;
  const has = (c: string): boolean => {
    for (let i = 0; i < chars.length; i++) {
      // A minus sign at the end of the list is itself (specification).
      if (chars[i + 1] === '-' && i + 2 < chars.length) {
        const [a, b] = [chars[i]!, chars[i + 2]!];
        if ((a <= c && c <= b) || (b <= c && c <= a)) return true;
        i += 2;
      } else if (chars[i] === c) return true;
    }
    return false;
  };
  return (text, from) => (from < text.length && has(text[from]!) !== not ? [from + 1] : []);
}

function piecesOf(pattern: string): readonly Piece[] | null {
  const pieces: Piece[] = [];
  for (let at = 0; at < pattern.length; at++) {
    const c = pattern[at]!;
    switch (c) {
      case '?':
        pieces.push((text, from) => (from < text.length ? [from + 1] : []));
        break;
      case '*':
        pieces.push(ANY);
        break;
      case '[':
      case '{': {
        const end = pattern.indexOf(c === '[' ? ']' : '}', at + 1);
        if (end < 0) return null;
        const inside = pattern.slice(at + 1, end);
        if (c === '[') pieces.push(listed(inside));
        else {
          const texts = inside.split(',');
          pieces.push((text, from) =>
            texts.filter((t) => text.startsWith(t, from)).map((t) => from + t.length),
          );
        }
        at = end;
        break;
      }
      case ']':
      case '}':
        return null;
      default:
        pieces.push((text, from) => (text[from] === c ? [from + 1] : []));
    }
  }
  return pieces;
}

/**
 * Makes the test that a part of an address pattern stands for. It takes as long as the pattern times the name at most: nothing in a
 * pattern makes it longer.
 * @returns null for a pattern with a bracket that is not closed, or was not opened
 */
export function partMatcher(pattern: string): ((name: string) => boolean) | null {
  const pieces = piecesOf(pattern);
  if (!pieces) return null;
  return (name) => {
    let places = new Set([0]);
    for (const piece of pieces) {
      const next = new Set<number>();
      // What a star can reach from its first place holds what it can reach from all others.
      const begins = piece === ANY ? [Math.min(...places)] : places;
      for (const from of begins) for (const to of piece(name, from)) next.add(to);
      if (next.size === 0) return false;
      places = next;
    }
    return places.has(name.length);
  };
}
