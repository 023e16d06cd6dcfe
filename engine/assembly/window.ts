// Kaiser's window (J. F. Kaiser, "Nonrecursive digital filter design using the I0-sinh window function", ISCAS 1974) and what is cut by it.

/** The modified Bessel function of order 0, by its series. */
export function bessel(x: f64): f64 {
  let sum: f64 = 1, term: f64 = 1;
  for (let k = 1; k < 40; k++) {
    const f = x / (2.0 * f64(k));
    term *= f * f;
    sum += term;
  }
  return sum;
}

/** The window at a share of the way from its middle to its end. @param beta 0.1102 (A - 8.7) for A above 50 dB */
export function kaiser(share: f64, beta: f64): f64 {
  return abs(share) >= 1 ? 0 : bessel(beta * Math.sqrt(1 - share * share)) / bessel(beta);
}
export function sinc(t: f64): f64 {
  return t == 0 ? 1 : Math.sin(Math.PI * t) / (Math.PI * t);
}

/** A low-pass of so many taps with its corner at a share of the sample rate, and a gain of 1 at 0 Hz. */
export function lowPass(to: usize, taps: i32, corner: f64, beta: f64): void {
  const middle = f64(taps - 1) / 2;
  let sum: f64 = 0;
  for (let pass = 0; pass < 2; pass++)
    for (let k = 0; k < taps; k++) {
      const t = f64(k) - middle, r = t / middle;
      // The outermost taps stand on the window's ends, where it is not yet nothing.
      const tap = sinc(2 * corner * t) * (abs(r) == 1 ? 1 / bessel(beta) : kaiser(r, beta));
      if (pass == 0) sum += tap;
      else store<f32>(to + (<usize>k << 2), f32(tap / sum));
    }
}
