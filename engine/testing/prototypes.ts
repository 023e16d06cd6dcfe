/** Level of the analogue prototypes of the W3C Audio EQ Cookbook (W3C Working Group Note, 8 June 2021) at a frequency, in dB. */
export function analogue(
  kind: 'bell' | 'lowShelf' | 'highShelf',
  f: number,
  gain: number,
  q: number,
  at: number,
) {
  const A = 10 ** (gain / 40);
  const w = at / f;
  const r = (Math.sqrt(A) / q) * w;
  const power = (re: number, im: number) => re * re + im * im;
  const ratio =
    kind === 'bell'
      ? power(1 - w * w, (A / q) * w) / power(1 - w * w, w / (A * q))
      : kind === 'lowShelf'
        ? (A * A * power(A - w * w, r)) / power(1 - A * w * w, r)
        : (A * A * power(1 - A * w * w, r)) / power(A - w * w, r);
  return 10 * Math.log10(ratio);
}
