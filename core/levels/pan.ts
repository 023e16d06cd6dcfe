import type { Gain, Pan } from '../base/units';

/** Decibels of a mono signal at the centre. */
export const PAN_LAWS = [0, -3, -4.5, -6] as const;
export type PanLaw = (typeof PAN_LAWS)[number];
export type StereoGain = readonly [left: Gain, right: Gain];

const clamp = (pan: Pan) => Math.max(-1, Math.min(1, pan));

/**
 * Gains of a mono signal into a stereo one. With p in -1..1 and t = (p+1)/2:
 * law -3 is cos/sin (equal power), law -6 linear, law -4.5 their geometric mean, law 0 full level at the centre.
 * Law -3 is the equal-power law of the Web Audio API, StereoPannerNode, mono input.
 * @param law decibels at the centre
 */
export function panMono(pan: Pan, law: PanLaw): StereoGain {
  const t = (clamp(pan) + 1) / 2;
  // cos(pi/2) is 6e-17 in floating point; a hard-panned signal is silent on the far side.
  const l3 = t === 1 ? 0 : Math.cos((t * Math.PI) / 2);
  const r3 = Math.sin((t * Math.PI) / 2);
  switch (law) {
    case -3:
      return [l3, r3];
    case -6:
      return [1 - t, t];
    case -4.5:
      return [Math.sqrt(l3 * (1 - t)), Math.sqrt(r3 * t)];
    case 0:
      return [Math.min(1, 2 - 2 * t), Math.min(1, 2 * t)];
  }
}

/** Gains of a stereo signal's own channels: to the right lowers the left by cos(p*pi/2), and the other way round. */
export function balance(pan: Pan): StereoGain {
  const p = clamp(pan);
  const far = Math.abs(p) === 1 ? 0 : Math.cos((p * Math.PI) / 2);
  return [p > 0 ? far : 1, p < 0 ? far : 1];
}

/** A pan position as it is written: `C`, `L30`, `R100`. */
export const panText = (pan: Pan): string => {
  const n = Math.round(Math.abs(pan) * 100);
  return n === 0 ? 'C' : `${pan < 0 ? 'L' : 'R'}${n}`;
};

/** Reads `C`, `L30`, `r 100`, `-0.3`; undefined where the text is no position. */
export const readPan = (text: string): Pan | undefined => {
  const t = text.trim().toLowerCase().replace(/−/g, '-').replace(/,/g, '.');
  if (/^(c|centre|center|0)$/.test(t)) return 0;
  const side = /^([lr])\s*(\d+(?:\.\d+)?)$/.exec(t);
  if (side) return clamp((Number(side[2]) / 100) * (side[1] === 'l' ? -1 : 1));
  return /^[+-]?(\d+(\.\d+)?|\.\d+)$/.test(t) && Math.abs(Number(t)) <= 1 ? Number(t) : undefined;
};
