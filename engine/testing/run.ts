import { readFileSync } from 'node:fs';
import { compilePlan, type CompileOptions } from '../../core/plan/compile';
import { BLOCK } from '../../core/plan/layout';
import type { Session } from '../../core/session/types';
import { Engine } from '../engine';

export const engineModule = new WebAssembly.Module(
  new Uint8Array(readFileSync(new URL('../../build/engine.wasm', import.meta.url))),
);

/** Stems by strip: each a list of channels. */
export type TestStems = Readonly<Record<string, readonly Float32Array[]>>;
/** What strips deliver, by strip: a list of channels each. */
export type TestAudio = Record<string, Float32Array[]>;

/** An engine under test that is stepped by hand. */
export class Bench {
  readonly engine = new Engine(engineModule);
  at = 0;

  constructor(
    public session: Session,
    private readonly stems: TestStems,
    private readonly options: CompileOptions = {},
  ) {
    this.engine.load(compilePlan(session, options));
  }

  /** Changes the session while it runs. */
  change(session: Session): void {
    this.session = session;
    this.engine.load(compilePlan(session, this.options));
  }

  /** Runs so many blocks. @returns what the captures gave */
  run(blocks: number): TestAudio {
    const out: TestAudio = {};
    for (let b = 0; b < blocks; b++) {
      const plan = this.engine.plan!;
      plan.sources.forEach((s, i) => {
        const stem = this.stems[s.strip] ?? [new Float32Array(0)];
        const heard = stem.map((c) => c.subarray(this.at, this.at + BLOCK));
        for (let c = 0; c < s.channels; c++) {
          const block = this.engine.input(i, c);
          block.fill(0);
          if (heard.length <= s.channels) block.set(heard[c] ?? heard[0]!);
          else block.set(heard[0]!.map((l, n) => (l + heard[1]![n]!) / 2));
        }
      });
      this.engine.run();
      plan.captures.forEach((cap, k) => {
        const list = (out[cap.strip] ??= Array.from(
          { length: cap.channels },
          () => new Float32Array(blocks * BLOCK),
        ));
        for (let c = 0; c < cap.channels; c++) list[c]!.set(this.engine.output(k, c), b * BLOCK);
      });
      this.at += BLOCK;
    }
    return out;
  }
}

/** Runs a session over its stems from the start. */
export const play = (
  session: Session,
  stems: TestStems,
  blocks: number,
  options: CompileOptions = {},
): TestAudio => new Bench(session, stems, options).run(blocks);

export const constant = (value: number, frames: number) => new Float32Array(frames).fill(value);
export const impulse = (frames: number, at = 0) => {
  const a = new Float32Array(frames);
  a[at] = 1;
  return a;
};
export const sine = (hertz: number, rate: number, frames: number, gain = 1) =>
  Float32Array.from({ length: frames }, (_, i) => gain * Math.sin((2 * Math.PI * hertz * i) / rate));
/** Repeatable noise in -1..1. */
export const noise = (frames: number, seed = 1) => {
  let a = seed;
  return Float32Array.from({ length: frames }, () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return a / 2147483648 - 1;
  });
};
export const peakOf = (audio: Float32Array) => audio.reduce((p, v) => Math.max(p, Math.abs(v)), 0);
