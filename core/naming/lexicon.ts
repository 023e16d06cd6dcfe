/** A family of strips: what sounds together, stands together and bears one colour. */
export interface Family {
  readonly name: string;
  readonly colour: string;
  /** Words, in lower case, that tell it. */
  readonly words: readonly string[];
}

/**
 * Twelve families with their colours, which stay apart for the common colour-vision deficiencies by lightness as well
 * as by hue. Order is that of a session: rhythm first, rooms and triggers last.
 */
export const FAMILIES: readonly Family[] = [
  {
    name: 'Percussion',
    colour: '#cf7a5c',
    words: [
      'drum', 'drums', 'kick', 'kik', 'snare', 'snr', 'hat', 'hats', 'hihat', 'tom', 'toms', 'floor', 'rack', 'overhead', 'overheads', 'oh',
      'cymbal', 'crash', 'ride', 'shaker', 'clap', 'claps', 'handclap', 'handclaps', 'stomp', 'perc', 'percussion', 'bongo', 'conga', 'cajon',
      'tambourine', 'tamb', 'rim', 'cowbell', 'trommel', 'tambor', 'batterie', 'schlagzeug', 'bateria', 'cassa', 'bodhran', 'frame', 'skin',
    ],
  },
  { name: 'Bass', colour: '#8f9be6', words: ['bass', 'basse', 'basso', 'bajo', 'sub', 'kontrabass', 'upright'] },
  { name: 'Guitars', colour: '#7fae6b', words: ['guitar', 'gtr', 'git', 'gitarre', 'guitare', 'guitarra', 'chitarra', 'cittern', 'mandolin', 'bouzouki', 'banjo', 'ukulele', 'lute', 'harp', 'harfe', 'arpa', 'harpe'] },
  { name: 'Keys', colour: '#d3ae4f', words: ['piano', 'pno', 'keys', 'organ', 'orgel', 'synth', 'rhodes', 'clav', 'harpsichord', 'concertina', 'accordion', 'akkordeon', 'harmonium', 'pad', 'bell', 'bells', 'glockenspiel', 'vibes', 'celesta'] },
  { name: 'Strings', colour: '#b585c4', words: ['strings', 'violin', 'vln', 'viola', 'vla', 'cello', 'vc', 'fiddle', 'geige', 'violon', 'violino', 'streicher', 'cordes', 'archi'] },
  { name: 'Winds', colour: '#5fb8b0', words: ['flute', 'flöte', 'flauta', 'whistle', 'oboe', 'clarinet', 'klarinette', 'bassoon', 'sax', 'trumpet', 'trompete', 'tpt', 'trombone', 'tbn', 'horn', 'horns', 'brass', 'tuba', 'recorder'] },
  { name: 'Lead', colour: '#e0869c', words: ['lead', 'ldvox', 'vox', 'vocal', 'vocals', 'voice', 'voc', 'stimme', 'voix', 'voz', 'voce', 'singer', 'gesang'] },
  { name: 'Choir', colour: '#64a2d6', words: ['choir', 'chor', 'choeur', 'coro', 'bv', 'bvs', 'bgv', 'backing', 'harmony', 'soprano', 'alto', 'tenor', 'crew', 'shout', 'shouts', 'gang', 'double'] },
  { name: 'Room', colour: '#9fb07a', words: ['room', 'raum', 'ambience', 'ambient', 'amb', 'hall', 'waves', 'sala', 'far'] },
  { name: 'Effects', colour: '#8fb0c4', words: ['fx', 'sfx', 'effect', 'effects', 'noise', 'riser', 'impact', 'atmo', 'effekt'] },
  { name: 'Triggers', colour: '#a9a9a9', words: ['pulse', 'trigger', 'trig', 'click', 'cue', 'guide', 'timecode'] },
  { name: 'Others', colour: '#a99582', words: [] },
];
