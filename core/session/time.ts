import type { Tempo } from './types';
import type { Seconds } from '../base/units';

/** Length of one beat, the note value that `beatUnit` names. `bpm` counts quarter notes, as a MIDI tempo does. */
export const beatSeconds = (tempo: Tempo): Seconds => (60 / tempo.bpm) * (4 / tempo.beatUnit);
export const barSeconds = (tempo: Tempo): Seconds => beatSeconds(tempo) * tempo.beatsPerBar;

/** A time as bar, beat and quarter of a beat, each counted from one: `05:1:2`. */
export function barText(seconds: Seconds, tempo: Tempo): string {
  // A millionth of a beat keeps a time that stands on a beat from reading as the one before.
  const beats = seconds / beatSeconds(tempo) + 1e-6;
  const bar = Math.floor(beats / tempo.beatsPerBar);
  const beat = Math.floor(beats - bar * tempo.beatsPerBar);
  const part = Math.floor((beats % 1) * 4);
  return `${String(bar + 1).padStart(2, '0')}:${beat + 1}:${part + 1}`;
}

/** A time as minutes, seconds and hundredths: `0:08.33`. */
export function clockText(seconds: Seconds): string {
  const hundredths = Math.floor(seconds * 100 + 1e-6);
  const rest = hundredths % 6000;
  return `${Math.floor(hundredths / 6000)}:${String(Math.floor(rest / 100)).padStart(2, '0')}.${String(rest % 100).padStart(2, '0')}`;
}
