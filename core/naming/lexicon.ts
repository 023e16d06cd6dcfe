import type { IconId } from './iconIds';

/** A family of strips: what sounds together, stands together and bears one colour. */
export interface Family {
  readonly name: string;
  readonly colour: string;
  /** Words, in lower case and without accents, that tell it: English, German, French, Spanish, Italian, studio shorthand. */
  readonly words: readonly string[];
  /** The same words by the icon that each of them suggests. */
  readonly icons: Readonly<Partial<Record<IconId, readonly string[]>>>;
  /** What a strip of it has whose name does not say more. */
  readonly icon: IconId;
}

const words = (text: string) => text.trim().split(/\s+/);

function family(
  name: string,
  colour: string,
  icon: IconId,
  told: Readonly<Partial<Record<IconId, string>>>,
): Family {
  const icons = Object.fromEntries(Object.entries(told).map(([of, text]) => [of, words(text)]));
  return { name, colour, icon, icons, words: Object.values(icons).flat() };
}

/**
 * Twelve families with their colours, which stay apart for the common colour-vision deficiencies by lightness as well
 * as by hue. Order is that of a session: rhythm first, rooms and triggers last.
 */
export const FAMILIES: readonly Family[] = [
  family('Percussion', '#cf7a5c', 'kit', {
    kit: `
      drums drumkit kit overhead overheads oh ohs brushes beater grosse kleine schlagzeug schlag batterie
      caisse claire tambours bateria batteria cassa tamburi`,
    kick: 'kick kik kck kd bd bassdrum stomp stomps stampfen bombo',
    snare: 'snare snr sn sd rimshot sidestick crossstick caja redoblante rullante',
    tom: 'drum tom toms timbale timbales timpani timp trommel pauke pauken tambour tambor tamburo timpano',
    hat: 'hat hats hihat hh charleston',
    cymbal: `
      cymbal cymbals cym crash ride china splash gong becken cymbale cymbales platillo platillos piatto
      piatti`,
    'hand-drum': `
      perc percs percussion bongo bongos conga congas cajon djembe tabla udu bodhran frame skin rim
      percussions tambores percusion percussioni`,
    shaker: `
      shaker tambourine tamb block woodblock claves clave guiro castanets maracas cabasa rassel
      schellenkranz grelots pandereta maraca tamburello sonagli`,
    clap: 'clap claps handclap handclaps snap snaps klatschen klatscher claquement palmas battimani',
    bell: 'cowbell triangle',
  }),
  family('Bass', '#8f9be6', 'bass', {
    bass: 'bass bs bss basses subbass sub bassgitarre e-bass ebass basse bajo basso',
    upright: 'upright doublebass contrabass dbass kontrabass contrebasse contrabajo contrabbasso',
  }),
  family('Guitars', '#7fae6b', 'guitar', {
    guitar: `
      guitar guitars gtr gtrs gt git agtr acgtr acoustic nylon steel twelve banjo mandolin mando uke
      ukulele cittern bouzouki lute oud zither gitarre gitarren akustikgitarre laute mandoline zupf
      guitare guitares luth acoustique guitarra guitarras laud mandolina criolla chitarra chitarre liuto
      mandolino acustica`,
    mallets: 'dulcimer',
    electric: 'egtr elgtr electric slide lapsteel pedalsteel electrique elettrica',
    harp: 'harp harfe harpe arpa',
  }),
  family('Keys', '#d3ae4f', 'piano', {
    piano: `
      piano pno pf keys key keyboard keyboards keyb kb kbd epiano ep clav harpsichord cembalo klavier
      fluegel flugel tasten clavier claviers clavecin teclado teclados pianoforte tastiera tastiere
      clavicembalo`,
    mallets: 'celesta celeste vibes vibraphone marimba xylophone glockenspiel glock',
    bell: 'bell bells chime chimes glocke glocken cloche cloches campana campanas campane',
    synth: 'synth syn synths pad pads arp lead-synth',
    organ: 'organ org harmonium orgel orgue organo',
    accordion: 'concertina accordion accord melodica akkordeon ziehharmonika accordeon acordeon fisarmonica',
  }),
  family('Strings', '#b585c4', 'violin', {
    violin: `
      strings string str strgs violin violins vln vlns vn vl viola violas vla vlas fiddle fiddles quartet
      geige geigen violine violinen bratsche bratschen streicher violon violons alto-violon cordes
      violines cuerdas cuerda violino violini viole archi corde`,
    cello: 'cello cellos vc vlc violoncello violoncelle violonchelo chelo violoncelli',
  }),
  family('Winds', '#5fb8b0', 'flute', {
    flute: `
      flute flutes fl piccolo picc recorder whistle pipe pipes winds woodwind woodwinds floete floeten
      flote floten blaeser blaser holz blockflote vents cuivre bois flauta flautas vientos viento metal
      flauto flauti fiati legni`,
    accordion: 'bagpipe',
    reed: `
      oboe ob clarinet clarinets clar cl bassoon bsn harmonica klarinette fagott mundharmonika hautbois
      clarinette basson clarinete fagot clarinetto fagotto`,
    sax: 'sax saxes saxophone saxophones asax tsax bsax saxophon sassofono',
    trumpet: `
      trumpet trumpets tpt tpts trp brass cornet flugelhorn trompete trompeten blech trompette trompettes
      cuivres trompeta trompetas metales tromba trombe ottoni`,
    trombone: 'trombone trombones tbn tbns tbone posaune posaunen trombon',
    horn: 'horn horns hn hrn tuba hoerner horner cor cors trompa corno corni',
  }),
  family('Lead', '#e0869c', 'voice', {
    voice: `
      lead ld ldv ldvox ldvoc vox vx vocal vocals vocs voc voice singer sing rap adlib adlibs stimme
      stimmen gesang sanger saenger hauptstimme solostimme voix chant chanteur chanteuse voz canto
      cantante solista voce`,
    choir: 'voces voci',
    speech: 'spoken',
  }),
  family('Choir', '#64a2d6', 'choir', {
    choir: `
      choir chorus choirs bv bvs bvox bgv bgvs bgvox backing backings background harmony harmonies harm
      soprano sopr sop alto mezzo tenor tenors ten baritone gang shout shouts crew crowd double doubles
      dbl dbls stack stacks chor choere hintergrund sopran choeur choeurs coeur soprane coro coros cori
      soprani contralto tenori baritono controcanto`,
  }),
  family('Room', '#9fb07a', 'room', {
    room: `
      room rooms rm amb ambience ambient ambients hall far mains spaced stage aud outdoor raum raume
      raeume saal salle salles ambiance sala salas ambiente stanza`,
    choir: 'audience publikum publico pubblico',
    effect: 'waves',
  }),
  family('Effects', '#8fb0c4', 'effect', {
    effect: `
      fx sfx efx effect effects noise riser risers sweep sweeps impact impacts hit hits atmo texture foley
      reverse boom whoosh effekt effekte gerausch rauschen effet effets bruit efecto efectos ruido effetto
      effetti rumore`,
    synth: 'drone',
    loop: 'loop loops sample samples',
  }),
  family('Triggers', '#a9a9a9', 'click', {
    click: `
      pulse trigger triggers trig trg click clk cue metronome timecode ltc smpte sidechain metronom
      ausloser taktgeber declencheur metronomo disparador claqueta innesco`,
    speech: 'guide',
  }),
  family('Others', '#a99582', 'none', {}),
];

/**
 * Words that say how a source was taken or where it stands, and decide a family only when nothing else does: `Fiddle room`
 * is a fiddle.
 */
export const PLACING: ReadonlySet<string> = new Set(
  words(`
    room rooms rm far amb ambience ambient hall stage sub lead ld double doubles dbl dbls stack frame skin rim solo raum saal sala
    salle salles salas stanza ambiance ambiente waves acoustic electric acustica elettrica acoustique electrique key keys
    steel nylon twelve slide harm harmony str string hit hits loop loops sample samples noise click cue grosse kleine
    caisse claire caja pipe holz bois metal viento block brushes cl fl ob sn hn ep kd bd sd sop ten alto voice voices voc
    backing background bass basse basso bajo bs sing cor spaced mains reverse kit pad pads slide aud key legni corde blech`),
);
