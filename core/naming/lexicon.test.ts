import { describe, expect, it } from 'vitest';
import { FAMILIES } from './lexicon';
import { familyOf, stereoPairs, suffixOf, wordsOf } from './suggest';

/**
 * Names as they stand on stems and channel lists, by the family that an engineer would put them in: common practice, no
 * published source. Five languages, abbreviations, suffixes.
 */
const STUDIO: Readonly<Record<string, string>> = {
  Percussion: `Kick In, Kick Out, Kik_sub, KD, BD, Bass Drum, Snare Top, Snare Bottom, SNR btm, Sn Top, SD, Rimshot, HiHat, Hi-Hat, HH,
    Hats, Rack Tom 1, Floor Tom, Tom 2, Toms L, OH L, OH R, Overheads, Cymbals, Crash, Ride, China, Shaker, Shakers L, Hand Claps, Claps,
    Finger Snaps, Stomp board, Perc Loop, Congas, Bongos Hi, Cajon, Tambourine, Tamb, Cowbell, Woodblock, Guiro, Triangle, Timpani, Djembe,
    Tabla L, Frame drum skin, Frame drum rim, Drum room, Drum Room R, Kit mono, Crash Cymbal,
    Große Trommel, Kleine Trommel, Becken L, Schlagzeug Raum, Pauken, Rassel, Schellenkranz, Klatschen,
    Grosse caisse, Caisse claire, Batterie, Cymbales, Tambour, Percussions,
    Bombo, Redoblante, Caja, Platillos, Batería, Palmas, Pandereta, Percusión,
    Gran cassa, Rullante, Piatti, Tamburi, Battimani, Timpani dx`,
  Bass: `Bass, Bass DI, Bass Amp, Bass mic, Bs DI, Sub Bass, Upright, Double Bass, Contrabass, Synth Bass, Kontrabass, E-Bass, Bassgitarre,
    Contrebasse, Basse DI, Bajo, Contrabajo, Basso, Contrabbasso`,
  Guitars: `Gtr L, GTR_R, Guitar 1, Acoustic Gtr, AGtr, EGtr Clean, Electric Guitar L, Nylon, Banjo, Mandolin, Mando Chop, Ukulele, Uke, Cittern DI,
    Bouzouki, Harp low, Lead Guitar, Lead Gtr Dbl, Slide Gtr, Gitarre links, Akustikgitarre, Konzertgitarre, Harfe, Guitare gauche, Luth, Harpe,
    Guitarra criolla, Guitarra eléctrica, Laúd, Arpa, Chitarra acustica, Chitarra elettrica sx`,
  Keys: `Piano L, Pno R, Grand Piano Close, Organ, B Organ Low, Synth Pad, Synth Lead, Keys 1, Kbd L, Clav, Harpsichord, Celesta, Concertina L,
    Accordion, Harmonium, Vibraphone, Marimba, Glockenspiel, Bell, Tubular Bells, Klavier, Flügel links, Orgel, Akkordeon, Clavier, Orgue,
    Accordéon, Clavecin, Teclado, Órgano, Acordeón, Pianoforte, Tastiera, Fisarmonica`,
  Strings: `Strings, Vln 1, Violin II, Violins 1 L, Viola, Vla, Cello, Vlc, Celli Vc, Fiddle close, Fiddle room, String Quartet, Geigen, Bratsche,
    Streicher Raum, Violons, Violoncelle, Cordes, Violines, Cuerdas, Violino, Archi, Violoncelli`,
  Winds: `Flute, Flutes 2, Piccolo, Oboe, Clarinet, Bass Clarinet, Bassoon, Alto Sax, Tenor Sax, Bari Sax, Sax Section, Trumpet 1, Tpt 2, Trombone,
    Bass Trombone, Tbn, French Horn, Horns, Horn Section L, Tuba, Brass, Whistle, Recorder, Harmonica, Querflöte, Klarinette, Fagott, Trompete,
    Posaune, Blechbläser, Hautbois, Clarinette, Trompette, Cuivres, Flauta, Clarinete, Trompeta, Vientos, Flauto, Tromba, Fiati, Corno`,
  Lead: `Lead Vox, Ld Vox, LdVox Dbl, Vox 1, Vocal, Voc Main, Lead voice, Lead double, Singer, Rap 2, Spoken, Adlibs, Gesang, Hauptstimme,
    Stimme 1, Voix, Chant, Voz principal, Cantante, Voce, Voci soliste`,
  Choir: `Choir, Choir soprano, Choir alto, Choir bass, BV 1, BVs L, BGV High, Backing Vox, Backing Vocals R, Harmony Vox, Gang Vox, Crew shouts 1,
    Soprano, Tenors, Chor links, Sopran 1, Choeur, Chœur droite, Coro, Coros L, Soprani, Contralto`,
  Room: `Room, Room L, Room Pair, Amb L, Ambience, Hall far, Audience, Stage Mics, Harbour waves, Raum links, Saal, Publikum, Salle, Ambiance, Sala,
    Público, Ambiente`,
  Effects: `FX, SFX 3, Riser, Impact, Reverse Cymbal, Noise Sweep, Atmo, Texture, Foley, Effekte, Effets, Efectos, Effetti`,
  Triggers: `Pulse, Trigger, Kick Trig, Click, Clk, Cue, Guide, Timecode, LTC, Metronome, Metronom, Métronome, Metrónomo`,
  Others: `Aux 7, Untitled, Zzz, 0001, Stem`,
};

/** General MIDI Level 1, sound set (MIDI Association, RP-003; names from memory), where its groups say the family. */
const GENERAL_MIDI: Readonly<Record<string, string>> = {
  Keys: `Acoustic Grand Piano, Bright Acoustic Piano, Electric Grand Piano, Honky-tonk Piano, Electric Piano 1, Electric Piano 2, Harpsichord,
    Celesta, Glockenspiel, Vibraphone, Marimba, Xylophone, Tubular Bells, Drawbar Organ, Percussive Organ, Rock Organ, Church Organ, Reed Organ,
    Accordion, Tango Accordion, Synth Strings 1`,
  Guitars: `Acoustic Guitar (nylon), Acoustic Guitar (steel), Electric Guitar (jazz), Electric Guitar (clean), Electric Guitar (muted),
    Overdriven Guitar, Distortion Guitar, Banjo, Orchestral Harp, Dulcimer`,
  Bass: `Acoustic Bass, Electric Bass (finger), Electric Bass (pick), Fretless Bass, Slap Bass 1, Slap Bass 2, Synth Bass 1, Synth Bass 2, Contrabass`,
  Strings: `Violin, Viola, Cello, Tremolo Strings, Pizzicato Strings, String Ensemble 1, String Ensemble 2, Fiddle`,
  Winds: `Trumpet, Trombone, Tuba, Muted Trumpet, French Horn, Brass Section, Soprano Sax, Alto Sax, Tenor Sax, Baritone Sax, Oboe, English Horn,
    Bassoon, Clarinet, Piccolo, Flute, Recorder, Pan Flute, Whistle, Harmonica`,
  Choir: `Choir Aahs`,
  Percussion: `Timpani, Woodblock, Taiko Drum, Melodic Tom, Synth Drum, Steel Drums`,
};
const list = (text: string) =>
  text
    .split(',')
    .map((n) => n.trim())
    .filter(Boolean);
const rows = (table: Readonly<Record<string, string>>) =>
  Object.entries(table).flatMap(([family, names]) => list(names).map((name) => [name, family] as const));

describe('the lexicon', () => {
  it('is held against 300 studio names and more in five languages', () =>
    expect(rows(STUDIO).length).toBeGreaterThan(300));
  it.each(rows(STUDIO))('puts %s into %s', (name, family) => expect(familyOf(name).name).toBe(family));
  it.each(rows(GENERAL_MIDI))('puts the General MIDI sound %s into %s', (name, family) =>
    expect(familyOf(name).name).toBe(family),
  );
  it('has twelve families, and no word that no name could hold', () => {
    expect(FAMILIES).toHaveLength(12);
    for (const f of FAMILIES)
      for (const word of f.words)
        expect([f.name, word, /^[a-z-]+$/.test(word)]).toEqual([f.name, word, true]);
  });
});

describe('suffixes and pairs', () => {
  it.each([
    ['Snare Top', 'top'],
    ['SNR btm', 'bottom'],
    ['Kick In', 'in'],
    ['Kick Out', 'out'],
    ['Bass DI', 'di'],
    ['Bass Amp', 'amp'],
    ['Bass cabinet', 'amp'],
    ['Fiddle room', 'room'],
    ['Fiddle close', 'close'],
    ['OH L', 'left'],
    ['Flügel links', 'left'],
    ['Guitare gauche', 'left'],
    ['Coro izq', 'left'],
    ['Chitarra dx', 'right'],
    ['Room R', 'right'],
    ['Snare unten', 'bottom'],
    ['Lead voice', null],
    ['Whistle', null],
  ])('%s ends in %s', (name, suffix) => expect(suffixOf(name)).toBe(suffix));

  const pairs = (...names: string[]) =>
    stereoPairs(names.map((name, i) => ({ id: `${i}`, name }))).map(([l, r]) => `${l.name} + ${r.name}`);
  it('finds left and right of one name, in one language', () =>
    expect(
      pairs(
        'OH L',
        'OH R',
        'Handclaps R',
        'Handclaps L',
        'Flügel links',
        'Flügel rechts',
        'Piano Left',
        'Piano R',
        'Coro izq',
        'Coro der',
        'L',
        'R',
      ),
    ).toEqual([
      'OH L + OH R',
      'Handclaps L + Handclaps R',
      'Flügel links + Flügel rechts',
      'Coro izq + Coro der',
    ]));
  it('does not pair a name with itself, nor two of one side', () =>
    expect(pairs('Tom L', 'Tom L', 'Voice', 'Kick D')).toEqual([]));
  it('takes words apart at accents, joints and capitals', () =>
    expect(wordsOf('GroßeTrommel_05-Flûte.wav')).toEqual(['grosse', 'trommel', 'flute', 'wav']));
});
