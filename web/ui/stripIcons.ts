import {
  mdiAccountGroup,
  mdiAccountVoice,
  mdiAmplifier,
  mdiBell,
  mdiCubeOutline,
  mdiGuitarAcoustic,
  mdiGuitarElectric,
  mdiHandClap,
  mdiMetronome,
  mdiMicrophone,
  mdiMusicClefBass,
  mdiMusicNote,
  mdiPiano,
  mdiRepeat,
  mdiSaxophone,
  mdiSineWave,
  mdiSpeaker,
  mdiTrumpet,
  mdiViolin,
  mdiWaveform,
  mdiWaves,
} from '@mdi/js';
import type { IconId } from '@core/naming/iconIds';
import { arc, box, line, oval, ring, shape } from './iconShapes';

/** Path data of each strip's icon, in a field of 24 by 24. */
export const ICON_PATHS: Readonly<Record<Exclude<IconId, 'none'>, string>> = {
  kit:
    ring(12, 15.5, 6, 6, 2) +
    oval(12, 15.5, 1.6) +
    box(1, 12, 5, 5) +
    box(18, 12, 5, 5) +
    line(1, 5, 8, 3, 1.8) +
    line(16, 3, 23, 5, 1.8) +
    line(4.5, 4, 4.5, 12, 1.2) +
    line(19.5, 4, 19.5, 12, 1.2) +
    box(8, 5.5, 8, 3.5),
  kick: ring(12, 12, 10, 10, 2.4) + oval(12, 12, 3.2) + line(4, 20, 2, 23, 2) + line(20, 20, 22, 23, 2),
  snare:
    ring(12, 8.5, 10, 3.8, 1.8) +
    box(2, 9, 2, 6.5) +
    box(20, 9, 2, 6.5) +
    arc(12, 4, 14, 46, 134, 2) +
    line(8, 12, 8, 18, 1.4) +
    line(12, 12, 12, 19, 1.4) +
    line(16, 12, 16, 18, 1.4),
  tom:
    oval(12, 6.5, 9, 3.4) +
    shape(
      [3, 8.5],
      [6, 10.3],
      [12, 11.2],
      [18, 10.3],
      [21, 8.5],
      [21, 17],
      [18, 19.4],
      [12, 20.4],
      [6, 19.4],
      [3, 17],
    ),
  hat:
    shape([1, 9.5], [12, 6.5], [23, 9.5]) +
    shape([1, 11.5], [23, 11.5], [12, 14.5]) +
    line(12, 2, 12, 22, 1.8) +
    line(6, 22.2, 18, 22.2, 1.8),
  cymbal:
    shape([1.5, 11], [9.5, 6], [11, 3.5], [13, 3], [14.5, 4.6], [22.5, 4.2]) +
    line(12.5, 7, 12.5, 20, 1.8) +
    line(12.5, 17, 6, 22, 1.8) +
    line(12.5, 17, 19, 22, 1.8),
  'hand-drum':
    oval(12, 5, 8, 3) +
    shape([4, 7], [8, 9], [12, 9.4], [16, 9], [20, 7], [15, 15], [17.5, 22], [6.5, 22], [9, 15]),
  shaker:
    oval(7.5, 7.5, 5.2, 5.6) +
    line(9.5, 11, 15, 22, 2.4) +
    oval(18.2, 5.6, 3.8, 4.2) +
    line(18, 9, 18.6, 18, 2),
  clap: mdiHandClap,
  mallets:
    box(1, 11, 3, 11) +
    box(5.2, 12, 3, 9) +
    box(9.4, 12.8, 3, 7.4) +
    box(13.6, 13.4, 3, 6.2) +
    box(17.8, 14, 3, 5) +
    line(6, 10, 15, 3.5, 1.6) +
    oval(16, 3, 2) +
    line(13, 10, 20, 6, 1.6) +
    oval(21, 5.4, 2),
  bell: mdiBell,
  bass: mdiMusicClefBass,
  upright:
    line(12, 1, 12, 12, 2) +
    oval(12, 12, 4.2, 3.8) +
    oval(12, 17.2, 5.8, 4.6) +
    box(10.6, 13.6, 2.8, 1.4, true) +
    line(12, 21, 12, 24, 1.4) +
    oval(12, 2.2, 2.2, 1.4),
  guitar: mdiGuitarAcoustic,
  electric: mdiGuitarElectric,
  harp:
    line(5, 2, 5, 21, 2.4) +
    line(4, 21, 9, 21, 2.4) +
    line(7, 21.5, 19.5, 8, 2.8) +
    arc(12.5, 0, 9.5, 55, 150, 2) +
    line(8.6, 8, 8.6, 18, 1) +
    line(11.4, 9.5, 11.4, 15.5, 1) +
    line(14.2, 9.5, 14.2, 13, 1),
  piano: mdiPiano,
  synth: mdiSineWave,
  organ:
    box(2, 9, 3, 9) +
    box(6, 5, 3, 13) +
    box(10.5, 1.5, 3, 16.5) +
    box(15, 5, 3, 13) +
    box(19, 9, 3, 9) +
    box(1, 19.5, 22, 3),
  accordion:
    box(1.5, 4, 5, 16) +
    box(3, 7, 2, 1.6, true) +
    box(3, 11, 2, 1.6, true) +
    box(3, 15, 2, 1.6, true) +
    box(8, 5.5, 1.8, 13) +
    box(11.1, 5.5, 1.8, 13) +
    box(14.2, 5.5, 1.8, 13) +
    box(17.5, 4, 5, 16),
  violin: mdiViolin,
  cello:
    line(12, 1, 12, 11, 1.6) +
    oval(12, 10.5, 3.4, 3.2) +
    oval(12, 15.8, 4.6, 4) +
    line(12, 19, 12, 23.5, 1.2) +
    line(19, 5, 21.5, 21, 1.4) +
    line(5, 14.6, 19, 12, 1.2),
  flute:
    line(1.5, 18.5, 21, 5.5, 3.4) +
    oval(7.5, 14.5, 0.9, 0.9, true) +
    oval(10.6, 12.4, 0.9, 0.9, true) +
    oval(13.7, 10.4, 0.9, 0.9, true) +
    oval(18.2, 7.4, 1.1, 1.1, true),
  reed:
    line(3.5, 21.5, 7, 17.5, 6) +
    line(5, 19.5, 18, 6, 3) +
    line(18, 6, 21.5, 2.5, 1.6) +
    oval(9.6, 14.8, 0.9, 0.9, true) +
    oval(12.2, 12.1, 0.9, 0.9, true) +
    oval(14.8, 9.4, 0.9, 0.9, true),
  sax: mdiSaxophone,
  trumpet: mdiTrumpet,
  trombone:
    line(1, 9, 18, 9, 1.8) +
    line(4, 15, 15, 15, 1.8) +
    arc(15, 12, 3, -90, 90, 1.8) +
    arc(4, 12, 3, 90, 270, 1.8) +
    shape([17, 8], [23, 4.5], [23, 13.5], [17, 10]),
  horn:
    ring(9.5, 10.5, 8, 8, 2) +
    ring(9.5, 10.5, 4.4, 4.4, 1.5) +
    shape([12, 16], [22.5, 13], [20, 23]) +
    oval(9.5, 10.5, 1.3),
  voice: mdiMicrophone,
  choir: mdiAccountGroup,
  speech: mdiAccountVoice,
  room: mdiCubeOutline,
  effect: mdiWaveform,
  loop: mdiRepeat,
  click: mdiMetronome,
  amp: mdiAmplifier,
  echo:
    oval(4, 12, 2.6) +
    arc(4, 12, 7, -55, 55, 2.2) +
    arc(4, 12, 12, -50, 50, 1.8) +
    arc(4, 12, 17, -45, 45, 1.4),
  reverb: mdiWaves,
  speaker: mdiSpeaker,
  note: mdiMusicNote,
};
