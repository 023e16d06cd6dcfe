import { iconFor } from '../core/naming/icons';
import { FAMILIES } from '../core/naming/lexicon';
import { newInsert, newSend, newStrip, newVca } from '../core/session/defaults';
import type { Session, Strip } from '../core/session/types';
import { BPM, SECTIONS } from './score';

const colourOf = (family: string) => FAMILIES.find((f) => f.name === family)?.colour ?? '#a99582';

const source = (
  id: string,
  name: string,
  family: string,
  faderDb: number,
  pan: number,
  more: Partial<Strip> = {},
): Strip =>
  newStrip({
    id,
    kind: 'source',
    name,
    family,
    colour: colourOf(family),
    icon: iconFor({ name, family, kind: 'source' }),
    stem: `stems/${id}.wav`,
    faderDb,
    pan,
    out: { to: 'main', on: true },
    ...more,
  });

const toPlate = (id: string, levelDb: number) => newSend({ id: `${id}-plate`, to: 'plate', levelDb });
const toSlap = (id: string, levelDb: number) => newSend({ id: `${id}-slap`, to: 'slap', levelDb });
const percussion = { out: { to: 'percussion', on: true } };
const choir = { out: { to: 'choir', on: true } };

/**
 * "Lantern Tide", half organized: percussion and choir are gathered, a plate and a slap return exist, a VCA holds the
 * choir's submix and its return; bass, strings and crew are still loose.
 */
export const demoSession = (): Session => ({
  format: 'zonula-session',
  version: 1,
  name: 'Lantern Tide',
  sampleRate: 48000,
  panLaw: -3,
  tempo: { bpm: BPM, beatsPerBar: 6, beatUnit: 8 },
  sections: SECTIONS,
  strips: [
    source('skin', 'Frame drum skin', 'Percussion', -6, 0, {
      ...percussion,
      trimDb: -2,
      sends: [toPlate('skin', -20)],
    }),
    source('rim', 'Frame drum rim', 'Percussion', -11, 0.15, { ...percussion, sends: [toPlate('rim', -12)] }),
    source('stomp', 'Stomp board', 'Percussion', -8, -0.05, { ...percussion, trimDb: 4 }),
    source('shaker', 'Shaker', 'Percussion', -15, 0.45, {
      ...percussion,
      trimDb: 6,
      sends: [toPlate('shaker', -18)],
    }),
    source('claps-l', 'Handclaps L', 'Percussion', -13, -0.7, {
      ...percussion,
      sends: [toPlate('claps-l', -10)],
    }),
    source('claps-r', 'Handclaps R', 'Percussion', -13, 0.7, {
      ...percussion,
      sends: [toPlate('claps-r', -10)],
    }),
    source('bass-di', 'Bass DI', 'Bass', -9, 0, { trimDb: -2 }),
    source('bass-mic', 'Bass mic', 'Bass', -11, 0),
    source('bass-cab', 'Bass cabinet', 'Bass', -12, 0),
    source('concertina-l', 'Concertina L', 'Keys', -12, -0.5, { trimDb: 1 }),
    source('concertina-r', 'Concertina R', 'Keys', -13, 0.5),
    source('fiddle-close', 'Fiddle close', 'Strings', -12, 0.3, {
      trimDb: -2,
      sends: [toSlap('fiddle-close', -16)],
    }),
    source('fiddle-room', 'Fiddle room', 'Strings', -17, 0.35),
    source('cittern-di', 'Cittern DI', 'Guitars', -14, -0.35, { trimDb: 3 }),
    source('cittern-mic', 'Cittern mic', 'Guitars', -16, -0.3, { trimDb: 3 }),
    source('harp-low', 'Harp low', 'Guitars', -14, -0.2, { trimDb: 3 }),
    source('harp-high', 'Harp high', 'Guitars', -15, 0.25, { trimDb: 5, sends: [toPlate('harp-high', -14)] }),
    source('whistle', 'Whistle', 'Winds', -14, 0.1, { sends: [toSlap('whistle', -12)] }),
    source('lead-voice', 'Lead voice', 'Lead', -7, 0, {
      sends: [toPlate('lead-voice', -14), toSlap('lead-voice', -16)],
      inserts: [
        newInsert({
          id: 'lead-eq',
          type: 'equalizer',
          params: {
            lowCutOn: 1,
            lowCutFrequency: 90,
            lowCutSlope: 2,
            bell1Frequency: 260,
            bell1Gain: -2,
            bell3Frequency: 3200,
            bell3Gain: 2.5,
            highShelfFrequency: 11000,
            highShelfGain: 1.5,
          },
        }),
        newInsert({
          id: 'lead-comp',
          type: 'compressor',
          params: { threshold: -17, ratio: 3, attack: 8, release: 140, knee: 8, makeUp: 4.5 },
        }),
      ],
    }),
    source('lead-double', 'Lead double', 'Lead', -15, -0.15, { trimDb: 3 }),
    source('choir-soprano', 'Choir soprano', 'Choir', -9, -0.4, {
      ...choir,
      sends: [toPlate('choir-soprano', -9)],
    }),
    source('choir-alto', 'Choir alto', 'Choir', -9, -0.15, { ...choir, sends: [toPlate('choir-alto', -9)] }),
    source('choir-tenor', 'Choir tenor', 'Choir', -9, 0.15, {
      ...choir,
      sends: [toPlate('choir-tenor', -9)],
    }),
    source('choir-bass', 'Choir bass', 'Choir', -8, 0.4, { ...choir, sends: [toPlate('choir-bass', -12)] }),
    source('crew-1', 'Crew shouts 1', 'Choir', -12, -0.6),
    source('crew-2', 'Crew shouts 2', 'Choir', -12, 0),
    source('crew-3', 'Crew shouts 3', 'Choir', -12, 0.6),
    source('room-pair', 'Room pair', 'Room', -16, 0, { channels: 2 }),
    source('harbour-waves', 'Harbour waves', 'Room', -18, 0, { trimDb: 3, channels: 2, width: 1.2 }),
    source('bell', 'Bell', 'Keys', -16, -0.55),
    source('pulse', 'Pulse', 'Triggers', -6, 0, { out: { to: 'main', on: false } }),
    newStrip({
      id: 'percussion',
      kind: 'submix',
      name: 'Percussion',
      family: 'Percussion',
      colour: colourOf('Percussion'),
      icon: 'kit',
      faderDb: -1,
      out: { to: 'main', on: true },
      inserts: [
        newInsert({
          id: 'percussion-glue',
          type: 'compressor',
          params: { threshold: -20, ratio: 2, attack: 20, release: 160, makeUp: 1.5 },
        }),
      ],
    }),
    newStrip({
      id: 'choir',
      kind: 'submix',
      name: 'Choir',
      family: 'Choir',
      colour: colourOf('Choir'),
      icon: 'choir',
      faderDb: -3,
      out: { to: 'main', on: true },
    }),
    newStrip({
      id: 'plate',
      kind: 'return',
      name: 'Plate',
      family: 'Returns',
      colour: '#6fb3cf',
      icon: 'reverb',
      trimDb: 5,
      faderDb: -6,
      out: { to: 'main', on: true },
      inserts: [
        newInsert({
          id: 'plate-reverb',
          type: 'reverb',
          params: { preDelay: 18, decay: 1.9, damping: 35, size: 100 },
        }),
        // Pulse is never heard: it ducks the tail on every beat, and the tail swells between.
        newInsert({
          id: 'plate-duck',
          type: 'compressor',
          params: { threshold: -30, ratio: 3, attack: 4, release: 180 },
          key: 'pulse',
        }),
      ],
    }),
    newStrip({
      id: 'slap',
      kind: 'return',
      name: 'Slap',
      soloSafe: false,
      family: 'Returns',
      colour: '#6fb3cf',
      icon: 'echo',
      faderDb: -9,
      out: { to: 'main', on: true },
      inserts: [
        newInsert({
          id: 'slap-delay',
          type: 'delay',
          params: { time: 110, feedback: 12, lowCut: 180, highCut: 5200 },
        }),
      ],
    }),
    newStrip({
      id: 'main',
      kind: 'output',
      name: 'Main',
      family: 'Outputs',
      colour: '#94a8a2',
      icon: 'speaker',
      out: { to: null, on: true },
    }),
  ],
  monitor: null,
  links: [],
  pins: [],
  layouts: [],
  dismissed: [],
  vcas: [
    newVca({
      id: 'vca-choir',
      name: 'Choir',
      colour: colourOf('Choir'),
      icon: 'choir',
      members: ['choir', 'plate'],
      faderDb: -1.5,
    }),
    newVca({
      id: 'vca-rhythm',
      name: 'Rhythm',
      colour: colourOf('Percussion'),
      icon: 'kit',
      members: ['skin', 'rim', 'stomp', 'shaker', 'claps-l', 'claps-r'],
    }),
  ],
});
