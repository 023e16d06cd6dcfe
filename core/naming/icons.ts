import { PLACING } from './lexicon';
import { familyOf, wordsOf } from './suggest';

/**
 * Icons that a strip can have. Their order is part of what devices are told, a number each with 0 for none, and of the session's
 * format: new ones are put behind.
 */
export const ICON_IDS = [
  'none',
  'kit',
  'kick',
  'snare',
  'tom',
  'hat',
  'cymbal',
  'hand-drum',
  'shaker',
  'clap',
  'mallets',
  'bell',
  'bass',
  'upright',
  'guitar',
  'electric',
  'harp',
  'piano',
  'synth',
  'organ',
  'accordion',
  'violin',
  'cello',
  'flute',
  'reed',
  'sax',
  'trumpet',
  'trombone',
  'horn',
  'voice',
  'choir',
  'speech',
  'room',
  'effect',
  'loop',
  'click',
  'amp',
  'echo',
  'reverb',
  'speaker',
  'note',
] as const;
export type IconId = (typeof ICON_IDS)[number];

const WORDS: Readonly<Partial<Record<IconId, string>>> = {
  kit: 'drums drumkit kit overhead overheads oh ohs schlagzeug batterie bateria batteria',
  kick: 'kick kik kck kd bd bassdrum stomp stomps stampfen bombo',
  snare: 'snare snr sn sd rimshot sidestick crossstick caja redoblante rullante',
  tom: 'tom toms timpani timp pauke pauken timbale timbales timpano drum trommel tambour tambor tamburo',
  hat: 'hat hats hihat hh charleston',
  cymbal:
    'cymbal cymbals cym crash ride china splash gong becken cymbale cymbales platillo platillos piatto piatti',
  'hand-drum':
    'bongo bongos conga congas cajon djembe tabla udu bodhran frame skin rim tambores percussion perc percs percussions percusion percussioni',
  shaker:
    'shaker shakers maracas maraca cabasa tambourine tamb tambourines rassel rasseln schellenkranz grelots pandereta sonagli tamburello guiro claves clave block woodblock castanets',
  clap: 'clap claps handclap handclaps snap snaps klatschen klatscher palmas battimani claquement',
  mallets: 'vibes vibraphone marimba xylophone glockenspiel glock celesta celeste dulcimer',
  bell: 'bell bells chime chimes triangle cowbell glocke glocken cloche cloches campana campanas campane',
  bass: 'bass bs subbass sub bassgitarre ebass basse bajo basso',
  upright: 'upright doublebass contrabass dbass kontrabass contrebasse contrabajo contrabbasso',
  guitar:
    'guitar guitars gtr gtrs gt git agtr acgtr acoustic nylon banjo mandolin mando uke ukulele cittern bouzouki lute oud zither gitarre gitarren akustikgitarre laute mandoline guitare guitares luth guitarra guitarras laud mandolina chitarra chitarre liuto mandolino',
  electric: 'egtr elgtr electric lapsteel pedalsteel slide electrica electrique elettrica',
  harp: 'harp harfe harpe arpa lyre',
  piano:
    'piano pno pf epiano ep clav harpsichord cembalo klavier fluegel flugel clavier claviers clavecin pianoforte clavicembalo keys key keyboard keyboards keyb kb kbd tasten teclado teclados tastiera tastiere',
  synth: 'synth syn synths pad pads arp lead-synth drone',
  organ: 'organ org orgel orgue organo harmonium',
  accordion:
    'accordion accord concertina melodica akkordeon ziehharmonika accordeon acordeon fisarmonica bagpipe',
  violin:
    'violin violins vln vlns vn vl viola violas vla vlas fiddle fiddles strings string str strgs quartet geige geigen violine violinen bratsche bratschen streicher violon violons cordes violines cuerdas cuerda violino violini viole archi corde',
  cello: 'cello cellos vc vlc violoncello violoncelle violonchelo chelo violoncelli',
  flute:
    'flute flutes fl piccolo picc recorder whistle pipe pipes floete floeten flote floten blockflote flauta flautas flauto flauti winds woodwind woodwinds holz bois vents fiati',
  reed: 'oboe ob clarinet clarinets clar cl bassoon bsn klarinette fagott hautbois clarinette basson clarinete fagot clarinetto fagotto harmonica mundharmonika',
  sax: 'sax saxes saxophone saxophones asax tsax bsax saxophon sassofono',
  trumpet:
    'trumpet trumpets tpt tpts trp cornet flugelhorn brass trompete trompeten blech trompette trompettes cuivres trompeta trompetas metales tromba trombe ottoni',
  trombone: 'trombone trombones tbn tbns tbone posaune posaunen trombon',
  horn: 'horn horns hn hrn tuba hoerner horner cor cors trompa corno corni',
  voice:
    'lead ld ldv ldvox ldvoc vox vx vocal vocals vocs voc voice singer sing rap adlib adlibs stimme stimmen gesang sanger saenger hauptstimme solostimme voix chant chanteur chanteuse voz canto cantante solista voce',
  choir:
    'choir chorus choirs bv bvs bvox bgv bgvs bgvox backing backings background harmony harmonies harm soprano sopr sop alto mezzo tenor tenors ten baritone gang shout shouts crew crowd audience double doubles dbl dbls chor choere hintergrund sopran choeur choeurs coro coros cori voces voci soprani contralto tenori baritono publikum publico publico pubblico',
  speech: 'spoken speech dialogue narrator talk talkback sprecher guide voiceover',
  room: 'room rooms rm amb ambience ambient ambients hall stage raum raume raeume saal salle salles ambiance sala salas ambiente stanza far mains spaced outdoor',
  effect:
    'fx sfx efx effect effects noise riser risers sweep sweeps impact impacts hit hits atmo texture foley reverse boom whoosh effekt effekte gerausch rauschen effet effets bruit efecto efectos ruido effetto effetti rumore waves',
  loop: 'loop loops sample samples',
  click:
    'pulse trigger triggers trig trg click clk cue metronome timecode ltc smpte sidechain metronom ausloser taktgeber declencheur metronomo disparador claqueta innesco',
  amp: 'amp cab cabinet verstarker',
  echo: 'echo echoes delay delays dly slap slapback ping tape echos retard retardo ritardo',
  reverb: 'reverb reverbs rev verb plate spring chamber cathedral hallraum nachhall hall',
  speaker: 'main master mix monitor out output summe ausgang sortie salida uscita',
};
const byWord = new Map<string, IconId>();
for (const [icon, words] of Object.entries(WORDS))
  for (const word of words.split(/\s+/)) if (!byWord.has(word)) byWord.set(word, icon as IconId);

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

/** What a family's strips have where a name does not say more. */
const OF_FAMILY: Readonly<Record<string, IconId>> = {
  Percussion: 'kit',
  Bass: 'bass',
  Guitars: 'guitar',
  Keys: 'piano',
  Strings: 'violin',
  Winds: 'flute',
  Lead: 'voice',
  Choir: 'choir',
  Room: 'room',
  Effects: 'effect',
  Triggers: 'click',
};

/** What the kind of a strip makes of a word: a `Hall` is a reverb among returns and a room among sources. */
const OF_KIND: Readonly<Record<string, Readonly<Record<string, IconId>>>> = {
  return: { hall: 'reverb', room: 'reverb', chorus: 'effect', drum: 'reverb', drums: 'reverb' },
};

/** Icon of one word: as it stands, in the singular, or as a joined word that ends in one that is known. */
function tells(word: string): IconId | undefined {
  const exact = byWord.get(word) ?? byWord.get(word.replace(/(?:es|s|en|n)$/, ''));
  if (exact || word.length < 7) return exact;
  for (let at = 2; at <= word.length - 4; at++) {
    const found = byWord.get(word.slice(at));
    if (found) return found;
  }
  return undefined;
}

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
  const own = familyOf(strip.name).name;
  if (own === 'Triggers' || strip.family === 'Triggers') return 'click';
  const kind = OF_KIND[strip.kind] ?? {};
  for (const word of list) if (kind[word]) return kind[word];
  for (let i = 1; i < list.length; i++) {
    const found = TOGETHER[`${list[i - 1]} ${list[i]}`];
    if (found) return found;
  }
  for (const placing of [false, true])
    for (const word of list) {
      if (PLACING.has(word) !== placing) continue;
      const found = tells(word);
      if (found) return found;
    }
  if (strip.kind === 'output') return 'speaker';
  return OF_FAMILY[own] ?? OF_FAMILY[strip.family] ?? 'none';
}

/** Whether an icon answers to what is looked for: its name, or one of the words that suggest it, begins so. */
export const iconMatches = (icon: IconId, query: string): boolean => {
  const asked = wordsOf(query);
  const own = [...wordsOf(icon), ...(WORDS[icon] ?? '').split(/\s+/)];
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
