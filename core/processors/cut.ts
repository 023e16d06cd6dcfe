/**
 * Coefficients [b0, b1, b2, a1, a2], normalized to a0 = 1, of a second-order Butterworth cut: the high-pass and low-pass
 * of the W3C Audio EQ Cookbook with Q = 1/sqrt(2). At its resting frequency, and beyond what the sample rate carries, it
 * passes all.
 * @param kind a low cut takes away what is below `hertz`, a high cut what is above
 */
export function cut(
  kind: 'low' | 'high',
  hertz: number,
  resting: number,
  sampleRate: number,
): readonly [number, number, number, number, number] {
  if (hertz === resting || hertz >= 0.49 * sampleRate) return [1, 0, 0, 0, 0];
  const w = (2 * Math.PI * hertz) / sampleRate;
  const alpha = Math.sin(w) / Math.SQRT2;
  const cos = Math.cos(w);
  const a0 = 1 + alpha;
  const side = (kind === 'low' ? 1 + cos : 1 - cos) / 2 / a0;
  const middle = ((kind === 'low' ? -(1 + cos) : 1 - cos) as number) / a0;
  return [side, middle, side, (-2 * cos) / a0, (1 - alpha) / a0];
}
