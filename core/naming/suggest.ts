import type { Colour } from '../session/units';
import { FAMILIES, type Family } from './lexicon';

export interface Suggestion {
  readonly name: string;
  readonly family: string;
  readonly colour: Colour;
}

const OTHERS = FAMILIES[FAMILIES.length - 1]!;
/** Words that say how, not what, and decide only when nothing else does. */
const PLACE_WORDS = new Set([
  'room',
  'far',
  'frame',
  'skin',
  'rim',
  'floor',
  'rack',
  'lead',
  'double',
  'amb',
  'hall',
  'raum',
  'sala',
  'sub',
]);

/** `03_Frame-Drum_skin.wav` becomes `Frame Drum skin`: no ending, no leading take number, spaces for joints. */
export function tidyName(fileName: string): string {
  const bare = fileName
    .replace(/^.*[\\/]/, '')
    .replace(/\.[A-Za-z0-9]{1,5}$/, '')
    .replace(/[_\-.]+/g, ' ')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .replace(/\s+/g, ' ')
    .trim();
  const name =
    bare.replace(/^(?:track|audio|stem)?\s*\d{1,3}\s+(?=\S)/i, '').slice(0, 80) ||
    bare.slice(0, 80) ||
    'Stem';
  return name.charAt(0).toUpperCase() + name.slice(1);
}

/** The family that a name tells, `Others` where it tells none. */
export function familyOf(name: string): Family {
  const words = name.toLowerCase().match(/\p{L}+/gu) ?? [];
  const tells = (word: string) =>
    FAMILIES.find((f) => f.words.includes(word) || f.words.includes(word.replace(/s$/, '')));
  for (const placing of [false, true])
    for (const word of words) {
      const found = tells(word);
      if (found && PLACE_WORDS.has(word) === placing) return found;
    }
  return OTHERS;
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
