import { keepable } from '../base/text';
import type { Colour, Id } from '../base/units';
import { FAMILIES, PLACING, type Family } from './lexicon';

export interface Suggestion {
  readonly name: string;
  readonly family: string;
  readonly colour: Colour;
}

const OTHERS = FAMILIES[FAMILIES.length - 1]!;
const byWord = new Map<string, Family>();
for (const family of FAMILIES)
  for (const word of family.words) if (!byWord.has(word)) byWord.set(word, family);

/** What programs write behind a file's name: which take it is, when it was recorded, that it is a copy. */
const WHICH_TAKE: readonly RegExp[] = [
  /(?<!\p{L})(?:take|tk|prise|toma)[\s_\-.]*\d{1,4}$/iu,
  /(?<=[\s_\-.])t\d{2,3}$/i,
  /(?<=[\s_\-.])(?:19|20)\d{2}[-_. ]?(?:0[1-9]|1[0-2])[-_. ]?(?:0[1-9]|[12]\d|3[01])(?:[t_\-. ]+\d{2}[-_.h ]?\d{2}(?:[-_.m ]?\d{2}s?)?)?$/i,
  /(?<=[\s_\-.])(?:0[1-9]|[12]\d|3[01])[-_.](?:0[1-9]|1[0-2])[-_.](?:19|20)?\d{2}$/,
  /\(\d{1,3}\)$/,
];
/** A file's name without what says which take it is; as it is where nothing else is said. */
export function withoutTake(fileName: string): string {
  const [, bare, ending] = /^(.*?)(\.[A-Za-z0-9]{1,5})?$/s.exec(fileName)!;
  let name = bare!;
  for (;;) {
    const found = WHICH_TAKE.find((ending) => ending.test(name));
    const shorter = found && name.replace(found, '').replace(/[\s_\-.]+$/, '');
    if (!shorter || !/\p{L}/u.test(shorter)) return name + (ending ?? '');
    name = shorter;
  }
}

/** `03_Frame-Drum_skin.wav` becomes `Frame Drum skin`: no ending, no leading take number, spaces for joints. */
export function tidyName(fileName: string): string {
  const bare = fileName
    .replace(/^.*[\\/]/, '')
    .replace(/\.[A-Za-z0-9]{1,5}$/, '')
    .replace(/[_\-.]+/g, ' ')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .replace(/\s+/g, ' ')
    .trim();
  const name =
    keepable(bare.replace(/^(?:track|audio|stem)?\s*\d{1,3}\s+(?=\S)/i, ''), 80) ||
    keepable(bare, 80) ||
    'Stem';
  return name.charAt(0).toUpperCase() + name.slice(1);
}

/** A name's words in lower case, without accents; letters and digits stand apart, and so do the parts of camel case. */
export const wordsOf = (name: string): readonly string[] =>
  name
    .replace(/ß/g, 'ss')
    .replace(/œ/g, 'oe')
    .normalize('NFKD')
    .replace(/[\u0300-\u036f]/g, '')
    .replace(/(\p{Ll})(\p{Lu})/gu, '$1 $2')
    .toLowerCase()
    .match(/\p{L}+/gu) ?? [];

/** What one word tells: as it stands, in the singular, or as a joined word that ends in one that is known. */
function tells<T>(word: string, known: ReadonlyMap<string, T>): T | undefined {
  const exact = known.get(word) ?? known.get(word.replace(/(?:es|s|en|n)$/, ''));
  if (exact || word.length < 7) return exact;
  // German joins words: the last part says what it is (`Konzertgitarre`, `Bassdrum`).
  for (let at = 2; at <= word.length - 4; at++) {
    const found = known.get(word.slice(at));
    if (found) return found;
  }
  return undefined;
}
/** What a name's words tell: two together first, then one alone, last those that only say how a source was taken. */
export function toldBy<T>(
  list: readonly string[],
  together: ReadonlyMap<string, T>,
  known: ReadonlyMap<string, T>,
): T | undefined {
  for (let i = 1; i < list.length; i++) {
    const found = together.get(`${list[i - 1]} ${list[i]}`);
    if (found) return found;
  }
  for (const placing of [false, true])
    for (const word of list) {
      if (PLACING.has(word) !== placing) continue;
      const found = tells(word, known);
      if (found) return found;
    }
  return undefined;
}

/** Two words that mean something else together than the first one says alone. */
const TOGETHER: readonly (readonly [pair: string, family: string])[] = [
  ['bass drum', 'Percussion'],
  ['bass clarinet', 'Winds'],
  ['bass flute', 'Winds'],
  ['bass sax', 'Winds'],
  ['bass trombone', 'Winds'],
  ['alto sax', 'Winds'],
  ['alto flute', 'Winds'],
  ['tenor sax', 'Winds'],
  ['baritone sax', 'Winds'],
  ['soprano sax', 'Winds'],
  ['choir bass', 'Choir'],
  ['bass voice', 'Choir'],
  ['string bass', 'Bass'],
  ['double bass', 'Bass'],
  ['synth bass', 'Bass'],
  ['acoustic bass', 'Bass'],
  ['electric bass', 'Bass'],
  ['synth drum', 'Percussion'],
  ['synth drums', 'Percussion'],
  ['synth lead', 'Keys'],
  ['lead synth', 'Keys'],
  ['lead guitar', 'Guitars'],
  ['lead gtr', 'Guitars'],
  ['lead double', 'Lead'],
  ['vox double', 'Lead'],
  ['vocal double', 'Lead'],
  ['french horn', 'Winds'],
  ['grosse caisse', 'Percussion'],
  ['caisse claire', 'Percussion'],
  ['grosse trommel', 'Percussion'],
  ['kleine trommel', 'Percussion'],
  ['gran cassa', 'Percussion'],
  ['crash cymbal', 'Percussion'],
  ['drum room', 'Percussion'],
  ['steel drum', 'Percussion'],
  ['cor anglais', 'Winds'],
  ['english horn', 'Winds'],
  ['backing vox', 'Choir'],
  ['backing vocal', 'Choir'],
  ['backing vocals', 'Choir'],
  ['background vocals', 'Choir'],
  ['harmony vox', 'Choir'],
  ['gang vox', 'Choir'],
  ['gang vocals', 'Choir'],
  ['voz coro', 'Choir'],
  ['voces coro', 'Choir'],
  ['string pad', 'Keys'],
  ['reverse cymbal', 'Effects'],
  ['guitarra electrica', 'Guitars'],
];
const together = new Map(TOGETHER.map(([pair, family]) => [pair, FAMILIES.find((f) => f.name === family)!]));

const TRIGGER_WORDS: ReadonlySet<string> = new Set(['trig', 'trigger', 'triggers', 'trg']);

/** The family that a name tells, `Others` where it tells none. */
export function familyOf(name: string): Family {
  const list = wordsOf(name);
  // A trigger is one whatever it was cut from.
  if (list.some((word) => TRIGGER_WORDS.has(word))) return byWord.get('trigger')!;
  return toldBy(list, together, byWord) ?? OTHERS;
}

/** Name, family and colour for an audio file. */
export function suggest(fileName: string): Suggestion {
  const name = tidyName(fileName);
  const family = familyOf(name);
  return { name, family: family.name, colour: family.colour };
}

/** Whether a strip is there to key processors, not to be heard: by its family, or by its name where it has none. */
export const isTrigger = (strip: { readonly family: string; readonly name: string }): boolean =>
  strip.family === 'Triggers' || (strip.family === '' && familyOf(strip.name).name === 'Triggers');

/** What a word at a name's end says of the take: its side, its place, or how it was picked up. */
export type Suffix =
  'left' | 'right' | 'in' | 'out' | 'top' | 'bottom' | 'di' | 'amp' | 'room' | 'close' | 'mic';
const SUFFIXES: Readonly<Record<string, Suffix>> = {
  l: 'left',
  left: 'left',
  lft: 'left',
  li: 'left',
  links: 'left',
  gauche: 'left',
  g: 'left',
  izq: 'left',
  izquierda: 'left',
  sx: 'left',
  sinistra: 'left',
  r: 'right',
  right: 'right',
  rgt: 'right',
  re: 'right',
  rechts: 'right',
  droite: 'right',
  d: 'right',
  der: 'right',
  derecha: 'right',
  dx: 'right',
  destra: 'right',
  in: 'in',
  inside: 'in',
  innen: 'in',
  out: 'out',
  outside: 'out',
  aussen: 'out',
  top: 'top',
  oben: 'top',
  up: 'top',
  bottom: 'bottom',
  bot: 'bottom',
  btm: 'bottom',
  unten: 'bottom',
  di: 'di',
  direct: 'di',
  line: 'di',
  amp: 'amp',
  cab: 'amp',
  cabinet: 'amp',
  verstarker: 'amp',
  room: 'room',
  raum: 'room',
  far: 'room',
  close: 'close',
  nah: 'close',
  mic: 'mic',
  mik: 'mic',
};
/** Words for one side with those for the other, so that a pair is of one language. */
const OPPOSITE: readonly (readonly [left: string, right: string])[] = [
  ['l', 'r'],
  ['left', 'right'],
  ['lft', 'rgt'],
  ['li', 're'],
  ['links', 'rechts'],
  ['gauche', 'droite'],
  ['g', 'd'],
  ['izq', 'der'],
  ['izquierda', 'derecha'],
  ['sx', 'dx'],
  ['sinistra', 'destra'],
];

/** The suffix of a name; null where its last word says none. */
export const suffixOf = (name: string): Suffix | null => {
  const last = wordsOf(name).at(-1);
  return last === undefined ? null : (SUFFIXES[last] ?? null);
};

/** Strips whose names differ in their last word alone, which says left in one and right in the other. */
export function stereoPairs<S extends { readonly id: Id; readonly name: string }>(
  strips: readonly S[],
): readonly (readonly [left: S, right: S])[] {
  const split = (name: string) => {
    const at = /^(.*?)[\s_\-.]*(\p{L}+)[\s.)]*$/u.exec(name.trim());
    return at ? { stem: at[1]!.toLowerCase(), side: wordsOf(at[2]!).join('') } : null;
  };
  const rights = new Map<string, S>();
  for (const s of strips) {
    const parts = split(s.name);
    if (parts && parts.stem) rights.set(`${parts.stem} ${parts.side}`, s);
  }
  const pairs: [S, S][] = [];
  for (const s of strips) {
    const parts = split(s.name);
    if (!parts || !parts.stem) continue;
    for (const [left, right] of OPPOSITE)
      if (parts.side === left) {
        const other = rights.get(`${parts.stem} ${right}`);
        if (other && other !== s) pairs.push([s, other]);
      }
  }
  return pairs;
}
