// The discrete Fourier transform of complex signals by Stockham's sorting algorithm (C. Van Loan, "Computational frameworks for
// the fast Fourier transform", 1992, 1.7), four butterflies to a vector. Sizes are powers of two, up to 32768.

export const LARGEST: i32 = 32768;
const cosines: usize = memory.data(32768 * 2, 16);
const sines: usize = memory.data(32768 * 2, 16);
const roomRe: usize = memory.data(32768 * 4, 16);
const roomIm: usize = memory.data(32768 * 4, 16);
let ready: bool = false;

/** Makes the tables, once. */
export function prepare(): void {
  if (ready) return;
  ready = true;
  for (let k = 0; k < LARGEST / 2; k++) {
    const angle = (2 * Math.PI * f64(k)) / f64(LARGEST);
    store<f32>(cosines + (<usize>k << 2), f32(Math.cos(angle)));
    store<f32>(sines + (<usize>k << 2), f32(Math.sin(angle)));
  }
}
/** cos(2 pi k / 32768) for k below 16384. */
// @ts-ignore: decorator
@inline
export function cosine(k: i32): f32 {
  return load<f32>(cosines + (<usize>k << 2));
}

// One stage: n points, apart by s, from one place to another.
function stage(n: i32, s: i32, fromRe: usize, fromIm: usize, toRe: usize, toIm: usize): void {
  const m = n >> 1;
  const twiddle = LARGEST / n;
  const far = <usize>(s * m) << 2;
  const wide = <usize>s << 2;
  for (let p = 0; p < m; p++) {
    const at = <usize>(p * twiddle) << 2;
    const x = <usize>(s * p) << 2, y = <usize>(2 * s * p) << 2;
    if (s >= 4) {
      const c = v128.load32_splat(cosines + at), w = v128.load32_splat(sines + at);
      for (let q: usize = 0; q < wide; q += 16) {
        const a = v128.load(fromRe + x + q), b = v128.load(fromIm + x + q);
        const d = v128.load(fromRe + x + q + far), e = v128.load(fromIm + x + q + far);
        v128.store(toRe + y + q, f32x4.add(a, d));
        v128.store(toIm + y + q, f32x4.add(b, e));
        const u = f32x4.sub(a, d), v = f32x4.sub(b, e);
        // Times e^(-j angle).
        v128.store(toRe + y + q + wide, f32x4.add(f32x4.mul(u, c), f32x4.mul(v, w)));
        v128.store(toIm + y + q + wide, f32x4.sub(f32x4.mul(v, c), f32x4.mul(u, w)));
      }
    } else {
      const c = load<f32>(cosines + at), w = load<f32>(sines + at);
      for (let q: usize = 0; q < wide; q += 4) {
        const a = load<f32>(fromRe + x + q), b = load<f32>(fromIm + x + q);
        const d = load<f32>(fromRe + x + q + far), e = load<f32>(fromIm + x + q + far);
        store<f32>(toRe + y + q, a + d);
        store<f32>(toIm + y + q, b + e);
        const u: f32 = a - d, v: f32 = b - e;
        store<f32>(toRe + y + q + wide, u * c + v * w);
        store<f32>(toIm + y + q + wide, v * c - u * w);
      }
    }
  }
}

/** Transforms so many points in place: X(k) = sum of x(n) e^(-2 pi j k n / size). With both parts exchanged, the other way. */
export function transform(re: usize, im: usize, size: i32): void {
  prepare();
  let fromRe = re, fromIm = im, toRe = roomRe, toIm = roomIm;
  for (let n = size, s = 1; n > 1; n >>= 1, s <<= 1) {
    stage(n, s, fromRe, fromIm, toRe, toIm);
    const a = fromRe, b = fromIm;
    fromRe = toRe;
    fromIm = toIm;
    toRe = a;
    toIm = b;
  }
  if (fromRe != re) {
    memory.copy(re, fromRe, <usize>size << 2);
    memory.copy(im, fromIm, <usize>size << 2);
  }
}
