// State-variable filter sections on four lanes; core/processors/filter.ts gives their numbers and the source.
import { flush } from './math';
import { current, loadState, previous, same, storeState } from './lanes';

/** Bytes of a section's parameters: g, k, m0, m1, m2. */
export const SECTION: usize = 20;

// The section that waits to run beside the next one: two run in one loop, so that neither waits for itself.
let pending: bool = false;
let pendingParams: usize = 0;
let pendingState: usize = 0;

// @ts-ignore: decorator
@inline
function rests(params: usize): bool {
  const one = f32x4.splat(1), none = f32x4.splat(0);
  return (
    same(current(params + 8), one) && same(current(params + 12), none) && same(current(params + 16), none) &&
    same(previous(params + 8), one) && same(previous(params + 12), none) && same(previous(params + 16), none)
  );
}

// @ts-ignore: decorator
@inline
function settled(params: usize): bool {
  return (
    same(current(params), previous(params)) && same(current(params + 4), previous(params + 4)) &&
    same(current(params + 8), previous(params + 8)) && same(current(params + 12), previous(params + 12)) &&
    same(current(params + 16), previous(params + 16))
  );
}

/**
 * Runs a section over a block of four lanes in place, or lets it wait for another; `finish` runs what still waits. Sections
 * are to be given in the order of the signal.
 * @param params first parameter, in bytes; @param state first state float, in bytes: two floats
 */
export function section(block: usize, params: usize, state: usize): void {
  if (rests(params)) {
    storeState(state, f32x4.splat(0));
    storeState(state + 4, f32x4.splat(0));
    return;
  }
  if (!settled(params)) {
    finish(block);
    moving(block, params, state);
  } else if (pending) {
    pending = false;
    two(block, pendingParams, pendingState, params, state);
  } else {
    pending = true;
    pendingParams = params;
    pendingState = state;
  }
}

// The section as a step of its state, s1' = c11 s1 + c12 s2 + b1 x, s2' = c21 s1 + c22 s2 + b2 x, y = d x + e1 s1 + e2 s2:
// the same arithmetic as below with the step worked out, so that a frame waits for as little as can be of the one before.
const coefficients: usize = memory.data(16 * 16, 16);

function workOut(params: usize, to: usize): void {
  const one = f32x4.splat(1);
  const g = current(params), k = current(params + 4);
  const m0 = current(params + 8), m1 = current(params + 12), m2 = current(params + 16);
  const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
  const a2 = f32x4.mul(g, a1), a3 = f32x4.mul(g, a2);
  v128.store(to, f32x4.sub(f32x4.add(a1, a1), one)); // c11
  v128.store(to, f32x4.add(a2, a2), 16); // b1, c21 and -c12
  v128.store(to, f32x4.sub(one, f32x4.add(a3, a3)), 32); // c22
  v128.store(to, f32x4.add(a3, a3), 48); // b2
  v128.store(to, f32x4.add(m0, f32x4.add(f32x4.mul(m1, a2), f32x4.mul(m2, a3))), 64); // d
  v128.store(to, f32x4.add(f32x4.mul(m1, a1), f32x4.mul(m2, a2)), 80); // e1
  v128.store(to, f32x4.sub(f32x4.mul(m2, f32x4.sub(one, a3)), f32x4.mul(m1, a2)), 96); // e2
}

export function finish(block: usize): void {
  if (!pending) return;
  pending = false;
  const state = pendingState;
  workOut(pendingParams, coefficients);
  const c11 = v128.load(coefficients), b1 = v128.load(coefficients, 16), c22 = v128.load(coefficients, 32);
  const b2 = v128.load(coefficients, 48), d = v128.load(coefficients, 64);
  const e1 = v128.load(coefficients, 80), e2 = v128.load(coefficients, 96);
  let s1 = loadState(state), s2 = loadState(state + 4);
  for (let i: usize = 0; i < 2048; i += 16) {
    const x = v128.load(block + i);
    v128.store(block + i, f32x4.add(f32x4.mul(d, x), f32x4.add(f32x4.mul(e1, s1), f32x4.mul(e2, s2))));
    const n1 = f32x4.add(f32x4.mul(c11, s1), f32x4.mul(b1, f32x4.sub(x, s2)));
    s2 = f32x4.add(f32x4.add(f32x4.mul(b1, s1), f32x4.mul(b2, x)), f32x4.mul(c22, s2));
    s1 = n1;
  }
  storeState(state, flush(s1));
  storeState(state + 4, flush(s2));
}

function two(block: usize, p: usize, ps: usize, q: usize, qs: usize): void {
  const second = coefficients + 128;
  workOut(p, coefficients);
  workOut(q, second);
  const c11 = v128.load(coefficients), b1 = v128.load(coefficients, 16), c22 = v128.load(coefficients, 32);
  const b2 = v128.load(coefficients, 48);
  const f11 = v128.load(second), g1 = v128.load(second, 16), f22 = v128.load(second, 32), g2 = v128.load(second, 48);
  let s1 = loadState(ps), s2 = loadState(ps + 4), t1 = loadState(qs), t2 = loadState(qs + 4);
  for (let i: usize = 0; i < 2048; i += 16) {
    const x = v128.load(block + i);
    const y = f32x4.add(
      f32x4.mul(v128.load(coefficients, 64), x),
      f32x4.add(f32x4.mul(v128.load(coefficients, 80), s1), f32x4.mul(v128.load(coefficients, 96), s2)),
    );
    const n1 = f32x4.add(f32x4.mul(c11, s1), f32x4.mul(b1, f32x4.sub(x, s2)));
    s2 = f32x4.add(f32x4.add(f32x4.mul(b1, s1), f32x4.mul(b2, x)), f32x4.mul(c22, s2));
    s1 = n1;
    v128.store(
      block + i,
      f32x4.add(
        f32x4.mul(v128.load(second, 64), y),
        f32x4.add(f32x4.mul(v128.load(second, 80), t1), f32x4.mul(v128.load(second, 96), t2)),
      ),
    );
    const n2 = f32x4.add(f32x4.mul(f11, t1), f32x4.mul(g1, f32x4.sub(y, t2)));
    t2 = f32x4.add(f32x4.add(f32x4.mul(g1, t1), f32x4.mul(g2, y)), f32x4.mul(f22, t2));
    t1 = n2;
  }
  storeState(ps, flush(s1));
  storeState(ps + 4, flush(s2));
  storeState(qs, flush(t1));
  storeState(qs + 4, flush(t2));
}

// While its numbers move, they run straight from the block's start to its end.
function moving(block: usize, params: usize, state: usize): void {
  const one = f32x4.splat(1), step = f32x4.splat(0.0078125);
  let g = previous(params), k = previous(params + 4);
  let m0 = previous(params + 8), m1 = previous(params + 12), m2 = previous(params + 16);
  const dg = f32x4.mul(step, f32x4.sub(current(params), g)), dk = f32x4.mul(step, f32x4.sub(current(params + 4), k));
  const d0 = f32x4.mul(step, f32x4.sub(current(params + 8), m0)), d1 = f32x4.mul(step, f32x4.sub(current(params + 12), m1));
  const d2 = f32x4.mul(step, f32x4.sub(current(params + 16), m2));
  let s1 = loadState(state), s2 = loadState(state + 4);
  for (let i: usize = 0; i < 2048; i += 16) {
    g = f32x4.add(g, dg);
    k = f32x4.add(k, dk);
    m0 = f32x4.add(m0, d0);
    m1 = f32x4.add(m1, d1);
    m2 = f32x4.add(m2, d2);
    const a1 = f32x4.div(one, f32x4.add(one, f32x4.mul(g, f32x4.add(g, k))));
    const a2 = f32x4.mul(g, a1), a3 = f32x4.mul(g, a2);
    const x = v128.load(block + i);
    const v3 = f32x4.sub(x, s2);
    const v1 = f32x4.add(f32x4.mul(a1, s1), f32x4.mul(a2, v3));
    const v2 = f32x4.add(s2, f32x4.add(f32x4.mul(a2, s1), f32x4.mul(a3, v3)));
    s1 = f32x4.sub(f32x4.add(v1, v1), s1);
    s2 = f32x4.sub(f32x4.add(v2, v2), s2);
    v128.store(block + i, f32x4.add(f32x4.mul(m0, x), f32x4.add(f32x4.mul(m1, v1), f32x4.mul(m2, v2))));
  }
  storeState(state, flush(s1));
  storeState(state + 4, flush(s2));
}
