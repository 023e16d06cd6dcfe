/** A family of strips: what sounds together, stands together and bears one colour. */
export interface Family {
  readonly name: string;
  readonly colour: string;
  /** Words, in lower case and without accents, that tell it: English, German, French, Spanish, Italian, studio shorthand. */
  readonly words: readonly string[];
}

const words = (text: string) => text.trim().split(/\s+/);

/**
 * Twelve families with their colours, which stay apart for the common colour-vision deficiencies by lightness as well
 * as by hue. Order is that of a session: rhythm first, rooms and triggers last.
 */
export const FAMILIES: readonly Family[] = [
  {
    name: 'Percussion',
    colour: '#cf7a5c',
    words: words(`
      drum drums drumkit kit kick kik kck kd bd bassdrum snare snr sn sd rimshot sidestick crossstick hat hats hihat hh
      tom toms overhead overheads oh ohs cymbal cymbals cym crash ride china splash shaker clap claps handclap handclaps
      snap snaps stomp stomps perc percs percussion bongo bongos conga congas cajon tambourine tamb cowbell block
      woodblock claves clave guiro triangle timbale timbales timpani timp djembe tabla udu bodhran frame skin rim
      castanets maracas cabasa toms gong brushes beater
      trommel grosse kleine becken schlagzeug schlag pauke pauken rassel schellenkranz klatschen klatscher stampfen
      batterie caisse claire grosse charleston cymbale cymbales tambour tambours percussions claquement grelots
      bateria bombo caja redoblante platillo platillos tambor tambores palmas pandereta maraca percusion
      batteria cassa rullante piatto piatti tamburo tamburi tamburello timpano percussioni battimani sonagli`),
  },
  {
    name: 'Bass',
    colour: '#8f9be6',
    words: words(`
      bass bs bss basses subbass sub upright doublebass contrabass dbass kontrabass bassgitarre e-bass ebass
      basse contrebasse bajo contrabajo basso contrabbasso`),
  },
  {
    name: 'Guitars',
    colour: '#7fae6b',
    words: words(`
      guitar guitars gtr gtrs gt git agtr egtr acgtr elgtr acoustic electric nylon steel twelve banjo mandolin mando uke
      ukulele cittern bouzouki lute oud harp slide lapsteel pedalsteel zither dulcimer
      gitarre gitarren akustikgitarre laute harfe mandoline zupf
      guitare guitares luth harpe mandoline acoustique electrique
      guitarra guitarras laud arpa mandolina criolla
      chitarra chitarre liuto mandolino acustica elettrica`),
  },
  {
    name: 'Keys',
    colour: '#d3ae4f',
    words: words(`
      piano pno pf keys key keyboard keyboards keyb kb kbd organ org epiano ep synth syn synths pad pads arp lead-synth
      clav harpsichord cembalo celesta celeste concertina accordion accord harmonium melodica vibes vibraphone
      marimba xylophone glockenspiel glock bell bells chime chimes
      klavier fluegel flugel orgel tasten akkordeon ziehharmonika glocke glocken
      clavier claviers orgue accordeon cloche cloches clavecin
      teclado teclados organo acordeon campana campanas
      pianoforte tastiera tastiere organo fisarmonica campane clavicembalo`),
  },
  {
    name: 'Strings',
    colour: '#b585c4',
    words: words(`
      strings string str strgs violin violins vln vlns vn vl viola violas vla vlas cello cellos vc vlc violoncello fiddle
      fiddles quartet
      geige geigen violine violinen bratsche bratschen streicher
      violon violons alto-violon violoncelle cordes
      violines cuerdas cuerda violonchelo chelo
      violino violini viole violoncelli archi corde`),
  },
  {
    name: 'Winds',
    colour: '#5fb8b0',
    words: words(`
      flute flutes fl piccolo picc oboe ob clarinet clarinets clar cl bassoon bsn sax saxes saxophone saxophones asax tsax
      bsax trumpet trumpets tpt tpts trp trombone trombones tbn tbns tbone horn horns hn hrn tuba brass cornet flugelhorn
      recorder whistle pipe pipes winds woodwind woodwinds harmonica bagpipe
      floete floeten flote floten klarinette fagott saxophon trompete trompeten posaune posaunen hoerner horner blaeser
      blaser blech holz blockflote mundharmonika
      hautbois clarinette basson trompette trompettes cor cors vents cuivres cuivre bois
      flauta flautas clarinete fagot trompeta trompetas trompa trombon vientos metales viento metal
      flauto flauti clarinetto fagotto tromba trombe corno corni fiati ottoni legni sassofono`),
  },
  {
    name: 'Lead',
    colour: '#e0869c',
    words: words(`
      lead ld ldv ldvox ldvoc vox vx vocal vocals vocs voc voice singer sing rap spoken adlib adlibs
      stimme stimmen gesang sanger saenger hauptstimme solostimme
      voix chant chanteur chanteuse
      voz voces canto cantante solista
      voce voci cantante`),
  },
  {
    name: 'Choir',
    colour: '#64a2d6',
    words: words(`
      choir chorus choirs bv bvs bvox bgv bgvs bgvox backing backings background harmony harmonies harm soprano sopr sop
      alto mezzo tenor tenors ten baritone gang shout shouts crew crowd double doubles dbl dbls stack stacks
      chor choere hintergrund sopran tenor
      choeur choeurs coeur soprane
      coro coros
      cori soprani contralto tenori baritono controcanto`),
  },
  {
    name: 'Room',
    colour: '#9fb07a',
    words: words(`
      room rooms rm amb ambience ambient ambients hall far mains spaced stage audience aud waves outdoor
      raum raume raeume saal publikum
      salle salles ambiance
      sala salas ambiente publico
      stanza pubblico`),
  },
  {
    name: 'Effects',
    colour: '#8fb0c4',
    words: words(`
      fx sfx efx effect effects noise riser risers sweep sweeps impact impacts hit hits atmo drone texture foley
      loop loops sample samples reverse boom whoosh
      effekt effekte gerausch rauschen
      effet effets bruit
      efecto efectos ruido
      effetto effetti rumore`),
  },
  {
    name: 'Triggers',
    colour: '#a9a9a9',
    words: words(`
      pulse trigger triggers trig trg click clk cue guide metronome timecode ltc smpte sidechain
      metronom ausloser taktgeber
      metronome declencheur
      metronomo disparador claqueta
      innesco`),
  },
  { name: 'Others', colour: '#a99582', words: [] },
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
