/**
 * The interpolating filter of ITU-R BS.1770-4, annex 2: four phases of twelve taps, for four times the sample rate (from
 * memory; a test holds an independent meter against it). The engine's limiter has the same numbers.
 */
export const TRUE_PEAK_TAPS: readonly (readonly number[])[] = (() => {
  const first = [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.137329101562,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ];
  const second = [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ];
  return [first, second, [...second].reverse(), [...first].reverse()];
})();

/** The highest value of a signal between its samples and at them; 1 is full scale. */
export function truePeak(audio: ArrayLike<number>): number {
  let peak = 0;
  for (let n = 0; n < audio.length + 11; n++) {
    if (n < audio.length) peak = Math.max(peak, Math.abs(audio[n]!));
    for (const taps of TRUE_PEAK_TAPS) {
      let sum = 0;
      for (let k = 0; k < 12; k++) sum += taps[k]! * (audio[n - k] ?? 0);
      peak = Math.max(peak, Math.abs(sum));
    }
  }
  return peak;
}
