import type { IconId } from './iconIds';
import { FAMILIES } from './lexicon';
import { familyOf, toldBy, wordsOf } from './suggest';

/** Words that tell an icon and no family: how a sound was picked up, what is done to it, where it goes. */
const MORE: Readonly<Partial<Record<IconId, string>>> = {
  harp: 'lyre',
  electric: 'electrica',
  speech: 'speech dialogue narrator talk talkback sprecher voiceover',
  amp: 'amp cab cabinet verstarker',
  echo: 'echo echoes delay delays dly slap slapback ping tape echos retard retardo ritardo',
  reverb: 'reverb reverbs rev verb plate spring chamber cathedral hallraum nachhall',
  speaker: 'main master mix monitor out output summe ausgang sortie salida uscita',
};
const byWord = new Map<string, IconId>();
const wordsOfIcon = new Map<IconId, string[]>();
function learn(icon: IconId, words: readonly string[]) {
  wordsOfIcon.set(icon, [...(wordsOfIcon.get(icon) ?? []), ...words]);
  for (const word of words) if (!byWord.has(word)) byWord.set(word, icon);
}
for (const family of FAMILIES)
  for (const [icon, words] of Object.entries(family.icons)) learn(icon as IconId, words);
for (const [icon, words] of Object.entries(MORE)) learn(icon as IconId, words.split(' '));

/** What two words say together that the first alone does not. */
const TOGETHER: Readonly<Record<string, IconId>> = {
  'bass drum': 'kick',
  'drum bass': 'kick',
  'frame drum': 'hand-drum',
  'hand drum': 'hand-drum',
  'steel drum': 'mallets',
  'drum loop': 'loop',
  'drum room': 'kit',
  'drum bus': 'kit',
  'drum machine': 'kit',
  'grosse caisse': 'kick',
  'grosse trommel': 'kick',
  'gran cassa': 'kick',
  'caisse claire': 'snare',
  'kleine trommel': 'snare',
  'hi hat': 'hat',
  'double bass': 'upright',
  'string bass': 'upright',
  'acoustic bass': 'upright',
  'electric bass': 'bass',
  'synth bass': 'synth',
  'electric guitar': 'electric',
  'electric gtr': 'electric',
  'e gitarre': 'electric',
  'electric piano': 'piano',
  'guitarra electrica': 'electric',
  'guitare electrique': 'electric',
  'chitarra elettrica': 'electric',
  'lead guitar': 'electric',
  'lead gtr': 'electric',
  'acoustic guitar': 'guitar',
  'pedal steel': 'electric',
  'lap steel': 'electric',
  'alto flute': 'flute',
  'bass flute': 'flute',
  'bass clarinet': 'reed',
  'cor anglais': 'reed',
  'english horn': 'reed',
  'french horn': 'horn',
  'alto sax': 'sax',
  'tenor sax': 'sax',
  'baritone sax': 'sax',
  'soprano sax': 'sax',
  'bass sax': 'sax',
  'bass trombone': 'trombone',
  'lead double': 'voice',
  'vox double': 'voice',
  'vocal double': 'voice',
  'backing vox': 'choir',
  'backing vocal': 'choir',
  'backing vocals': 'choir',
  'background vocals': 'choir',
  'harmony vox': 'choir',
  'gang vox': 'choir',
  'gang vocals': 'choir',
  'choir bass': 'choir',
  'bass voice': 'choir',
  'string pad': 'synth',
  'synth lead': 'synth',
  'lead synth': 'synth',
  'talk back': 'speech',
  'voice over': 'speech',
  'reverse cymbal': 'effect',
};
const together = new Map(Object.entries(TOGETHER));

/** What the kind of a strip makes of a word: a `Hall` is a reverb among returns and a room among sources. */
const OF_KIND: ReadonlyMap<string, ReadonlyMap<string, IconId>> = new Map([
  [
    'return',
    new Map<string, IconId>([
      ['hall', 'reverb'],
      ['room', 'reverb'],
      ['chorus', 'effect'],
      ['drum', 'reverb'],
      ['drums', 'reverb'],
    ]),
  ],
]);

/**
 * The icon that a strip's name suggests, else its family's, else none. Words that only say how a source was taken decide
 * last, as with families.
 */
export function iconFor(strip: {
  readonly name: string;
  readonly family: string;
  readonly kind: string;
}): IconId {
  const list = wordsOf(strip.name);
  const own = familyOf(strip.name);
  if (own.name === 'Triggers' || strip.family === 'Triggers') return 'click';
  const kind = OF_KIND.get(strip.kind);
  for (const word of list) if (kind?.has(word)) return kind.get(word)!;
  const told = toldBy(list, together, byWord);
  if (told) return told;
  if (strip.kind === 'output') return 'speaker';
  if (own.icon !== 'none') return own.icon;
  return FAMILIES.find((f) => f.name === strip.family)?.icon ?? 'none';
}

/** Whether an icon answers to what is looked for: its name, or one of the words that suggest it, begins so. */
export const iconMatches = (icon: IconId, query: string): boolean => {
  const asked = wordsOf(query);
  const own = [...wordsOf(icon), ...(wordsOfIcon.get(icon) ?? [])];
  return asked.every((q) => own.some((w) => w.startsWith(q)));
};

/** The icon of what holds strips: the one that they share, else what its own name suggests. */
export function sharedIcon(
  strips: readonly { readonly icon: IconId; readonly family: string }[],
  name: string,
  kind: string,
): IconId {
  const first = strips[0];
  if (first && first.icon !== 'none' && strips.every((s) => s.icon === first.icon)) return first.icon;
  return iconFor({ name, family: first?.family ?? '', kind });
}
