import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Insert, Lane, Session, Strip } from '../core/session/types';
import { processorOf } from '../core/processors/registry';
import { automatedSessions } from '../core/testing/arbitraries';
import { print } from './print';
import { modelled } from './testing/model';
import { engineModule, noise, sine } from './testing/run';
import { through } from './testing/through';

const FRAMES = 15000;
/** What a tenth of a decibel is of a gain. */
const TENTH = 10 ** (0.1 / 20) - 1;

/** Inserts that leave the signal as it is, but late, and gains with lanes: what the model knows. */
function withLateness(session: Session, salt: number): Session {
  let random = salt * 7919 + 17;
  const dice = (n: number) => ((random = (Math.imul(random, 1103515245) + 12345) >>> 0) % 65536) % n;
  const sources = session.strips.filter((s) => s.kind === 'source').map((s) => s.id);
  const wire = (id: string, own: string): Insert => {
    const place = dice(2) ? 'pre' : 'post';
    const on = dice(3) > 0;
    switch (dice(4)) {
      case 0:
        return newInsert({
          id,
          type: 'limiter',
          place,
          on,
          params: { lookAhead: 0.5 + dice(95) / 10, ceiling: 0 },
        });
      case 1:
        return newInsert({ id, type: 'pitch', place, on, params: {} });
      case 2: {
        // A compressor that never turns down, keyed by a strip that may be late itself.
        const key = sources[dice(sources.length || 1)] ?? null;
        return newInsert({
          id,
          type: 'compressor',
          place,
          on,
          key: key === own ? null : key,
          params: { ratio: 1 },
        });
      }
      default: {
        const lanes: Record<string, Lane> = {};
        if (dice(2))
          lanes.gain = [
            [dice(90) / 1000, -dice(20)],
            [0.1, 6],
            [0.1, -6],
            [(100 + 10 * dice(9)) / 1000, 3],
          ];
        if (dice(2))
          lanes.on = [
            [0, 1],
            [(50 + 10 * dice(9)) / 1000, 0],
            [0.2, 1],
          ];
        return newInsert({
          id,
          type: 'gain',
          place,
          on,
          mix: dice(2) ? 1 : 0.5,
          params: { gain: -dice(12) },
          lanes,
        });
      }
    }
  };
  return {
    ...session,
    vcas: session.vcas.map((v) => ({ ...v, solo: false })),
    strips: session.strips.map((s): Strip => ({
      ...s,
      solo: false,
      // Keys are heard by sources alone, from sources before them: so nothing feeds itself.
      inserts: Array.from({ length: dice(3) }, (_, k) => wire(`${s.id}-w${k}`, s.id)).map((i) =>
        i.key !== null && s.kind === 'source' && sources.indexOf(i.key) >= sources.indexOf(s.id)
          ? { ...i, key: null }
          : i,
      ),
    })),
  };
}

async function printed(session: Session, stems: Record<string, Float32Array[]>, strips: readonly string[]) {
  const out = new Map<string, Float32Array[]>();
  const at = new Map<string, number>();
  const reader = {
    read({ id, channels }: Strip, start: number, into: Float32Array) {
      for (let i = 0; i < into.length; i++)
        into[i] = stems[id]![i % channels]![start + Math.floor(i / channels)] ?? 0;
    },
  };
  for await (const pieces of print({ session, strips, frames: FRAMES, stems: reader, module: engineModule }))
    for (const { capture, audio } of pieces) {
      const { strip, channels } = capture;
      const to = out.get(strip) ?? Array.from({ length: channels }, () => new Float32Array(FRAMES));
      out.set(strip, to);
      const from = at.get(strip) ?? 0;
      for (let i = 0; i < audio.length; i++) to[i % channels]![from + Math.floor(i / channels)] = audio[i]!;
      at.set(strip, from + audio.length / channels);
    }
  return out;
}

const stemsOf = (session: Session, gain = 0.01) =>
  Object.fromEntries(
    session.strips
      .filter((s) => s.kind === 'source')
      .map((s, i) => [
        s.id,
        Array.from({ length: s.channels }, (_, c) => noise(FRAMES, i * 2 + c + 1).map((v) => v * gain)),
      ]),
  );

describe('a print', () => {
  it('is what the format says, frame by frame: graphs, lanes, keys and latencies at random', async () => {
    const sessions = fc.sample(automatedSessions(), { seed: 15, numRuns: 24 });
    for (const [n, random] of sessions.entries()) {
      const session = withLateness(random, n);
      const stems = stemsOf(session);
      const ids = session.strips.map((s) => s.id);
      const prints = await printed(session, stems, ids);
      const modelOf = modelled(session, stems, FRAMES);
      for (const id of ids) {
        const model = modelOf(id);
        const print = prints.get(id)!;
        expect(print.length).toBe(model.length);
        const top = model.reduce((m, ch) => ch.reduce((p, v) => Math.max(p, Math.abs(v)), m), 0);
        for (const [c, ch] of model.entries()) {
          // The noise itself goes through zero, copies of it cancel, and a jump sets off from nothing: what it is nearby counts,
          // and a thousandth of the highest.
          const tops = Array.from({ length: Math.ceil(FRAMES / 12) }, (_, k) =>
            ch.subarray(12 * k, 12 * k + 12).reduce((p, v) => Math.max(p, Math.abs(v)), 0),
          );
          let worst = 0;
          let where = 0;
          for (let i = 0; i < FRAMES; i++) {
            let near = 0.001 * top + 1e-9;
            for (let k = Math.floor(i / 12) - 1; k <= Math.floor(i / 12) + 10; k++)
              near = Math.max(near, tops[k] ?? 0);
            const off = Math.abs(print[c]![i]! - ch[i]!) / near;
            if (off > worst) [worst, where] = [off, i];
          }
          expect(worst, `session ${n}, strip ${id}, side ${c}, frame ${where}`).toBeLessThan(TENTH);
        }
      }
    }
  });
});

const ramps = (from: number | null, to: number | null): Lane => [
  [0, from],
  [0.1, from],
  [0.15, to],
];
const db = (gain: number) => 20 * Math.log10(Math.abs(gain));
const one = (fields: Partial<Strip>, ...more: readonly Strip[]): Session => ({
  ...newSession('One'),
  strips: [
    newStrip({
      id: 'a',
      kind: 'source',
      name: 'A',
      stem: 'a',
      pan: -1,
      out: { to: 'main', on: true },
      ...fields,
    }),
    ...more,
    ...newSession('One').strips,
  ],
});
const ones = { a: [new Float32Array(FRAMES).fill(1)] };

describe('a lane', () => {
  it('that falls by 60 dB in 50 ms is within 0.1 dB of its law at every frame', async () => {
    const out = (await printed(one({ lanes: { fader: ramps(0, -60) } }), ones, ['main'])).get('main')![0]!;
    for (let n = 0; n < FRAMES; n++) {
      const share = Math.max(0, Math.min(1, (n / 48000 - 0.1) / 0.05));
      // The fader's travel, as docs/session-format.md gives it: 0 dB stands at 0.75, -60 dB at 0.05.
      const travel = 0.75 - 0.7 * share;
      const points = [
        [0, -80],
        [0.1, -40],
        [0.3, -24],
        [0.5, -12],
        [0.75, 0],
      ] as const;
      const k = Math.max(
        1,
        points.findIndex(([t]) => travel <= t + 1e-12),
      );
      const [[t0, l0], [t1, l1]] = [points[k - 1]!, points[k]!];
      expect(Math.abs(db(out[n]!) - (l0 + ((l1 - l0) * (travel - t0)) / (t1 - t0))), `${n}`).toBeLessThan(
        0.1,
      );
    }
  });

  it.each([44100, 48000, 96000])(
    'that jumps does nothing before its point, and is over within 128 frames, at %i Hz',
    async (rate) => {
      const point = Math.round(rate * 0.1);
      const mute: Lane = [
        [0, 0],
        [point / rate, 1],
      ];
      const session = { ...one({ lanes: { mute } }), sampleRate: rate };
      const out = (await printed(session, ones, ['main'])).get('main')![0]!;
      for (let n = 0; n <= point; n++) expect(out[n]).toBe(1);
      for (let n = point + 1; n < point + 128; n++) expect(out[n]).toBeLessThanOrEqual(out[n - 1]!);
      for (let n = point + 128; n < FRAMES; n++) expect(out[n]).toBe(0);
      // A millisecond at least from one to the other.
      const begun = out.findIndex((v) => v < 0.9999);
      const over = out.findIndex((v) => v < 0.0001);
      expect(over - begun).toBeGreaterThan(rate * 0.0005);
    },
  );

  it('acts at the frame of its own signal, however late that is: mute, pan, sends and inserts', async () => {
    const late = newInsert({ id: 'late', type: 'pitch' });
    const step = (from: number, to: number): Lane => [
      [0, from],
      [0.1, from],
      [0.1, to],
    ];
    const strips: readonly Partial<Strip>[] = [
      { lanes: { mute: step(0, 1) } },
      { lanes: { pan: step(-1, 1) } },
      { lanes: { fader: step(0, -12) } },
      {
        out: { to: null, on: true },
        sends: [newSend({ id: 'x', to: 'main', pan: -1, tap: 'pre', lanes: { on: step(1, 0) } })],
      },
      {
        out: { to: null, on: true },
        sends: [newSend({ id: 'x', to: 'main', pan: -1, tap: 'post', lanes: { level: step(0, -20) } })],
      },
      { inserts: [newInsert({ id: 'g', type: 'gain', params: { gain: -6 }, lanes: { on: step(0, 1) } })] },
      { inserts: [newInsert({ id: 'g', type: 'gain', lanes: { gain: step(0, -6) } })] },
    ];
    for (const [i, fields] of strips.entries()) {
      const plain = (await printed(one(fields), ones, ['main'])).get('main')![0]!;
      // The same beside a strip that is late, so that its own signal waits, and late itself.
      const beside = newStrip({
        id: 'b',
        kind: 'source',
        name: 'B',
        faderDb: null,
        out: { to: 'main', on: true },
        inserts: [late],
      });
      const waiting = (
        await printed(one(fields, beside), { ...ones, b: [new Float32Array(FRAMES)] }, ['main'])
      ).get('main')![0]!;
      const own = await printed(one({ ...fields, inserts: [late, ...(fields.inserts ?? [])] }), ones, [
        'main',
      ]);
      const [, ...held] = [plain, waiting, own.get('main')![0]!];
      expect(plain[4800]).not.toBe(plain[4900]);
      for (const other of held)
        // A shifted voice begins with a fade of its own.
        for (let n = 3000; n < 12000; n++)
          expect(Math.abs(other[n]! - plain[n]!), `${i}, ${n}`).toBeLessThan(1e-5);
    }
  });

  it('and all others leave stems that add up to their sum, below -120 dB', async () => {
    for (const [n, random] of fc.sample(automatedSessions(), { seed: 4, numRuns: 20 }).entries()) {
      const lateness = withLateness(random, n + 500);
      const session: Session = {
        ...lateness,
        vcas: lateness.vcas.map((v) => ({ ...v, members: v.members.filter((m) => m !== 'main') })),
        strips: lateness.strips.map((s) =>
          s.id === 'main'
            ? newStrip({ id: 'main', kind: 'output', name: 'Main', out: { to: null, on: true } })
            : { ...s, sends: s.sends.filter((x) => x.to !== 'main') },
        ),
      };
      const stems = stemsOf(session, 0.5);
      const parts = session.strips.filter((s) => s.out.to === 'main' && s.out.on).map((s) => s.id);
      const prints = await printed(session, stems, ['main', ...parts]);
      const main = prints.get('main')!;
      for (const side of [0, 1]) {
        let left = 0;
        for (let i = 0; i < FRAMES; i++) {
          let sum = 0;
          for (const id of parts) sum += prints.get(id)![side]![i]!;
          left = Math.max(left, Math.abs(main[side]![i]! - sum));
        }
        expect(left).toBeLessThan(1e-6);
      }
    }
  });
});

describe('a key', () => {
  /** Where a strip that is turned down by its key begins to go down. */
  const firstMove = async (keyInserts: Strip['inserts'], own: Strip['inserts'], on: boolean) => {
    const key = newStrip({
      id: 'k',
      kind: 'source',
      name: 'K',
      out: { to: null, on: true },
      inserts: keyInserts,
    });
    const duck = newInsert({
      id: 'c',
      type: 'compressor',
      key: 'k',
      on,
      params: { attack: 0.1, ratio: 20, threshold: -40, knee: 0 },
    });
    const beat = new Float32Array(FRAMES);
    beat.fill(0.5, 7000);
    const start = new Float32Array(FRAMES);
    start.fill(0.25, 100);
    const prints = await printed(one({ inserts: [...own, duck] }, key), { a: [start], k: [beat] }, ['main']);
    const out = prints.get('main')![0]!;
    return {
      begins: out.findIndex((v) => Math.abs(v) > 0.01),
      moves: out.findIndex((v, i) => i > 6000 && v < 0.9996 * out[6000]!),
    };
  };
  const kinds: readonly (readonly [string, Record<string, number>])[] = [
    ['limiter', { lookAhead: 2 }],
    ['limiter', { lookAhead: 10 }],
    ['saturation', { drive: 0 }],
    ['pitch', {}],
  ];
  it.each(kinds)(
    'that is late by a %s is heard at the frame of its own signal, and nothing is early',
    async (type, params) => {
      const late = [newInsert({ id: 'l', type, params })];
      const plain = await firstMove([], [], true);
      expect(plain.begins).toBe(100);
      expect(plain.moves).toBe(7000);
      for (const [keyed, own] of [
        [late, []],
        [[], late],
        [late, late],
      ] as const) {
        const found = await firstMove(keyed, own, true);
        // What bends the key's edge in time, a filter's ringing, may be heard a little before it.
        expect(Math.abs(found.begins - 100), 'begins').toBeLessThan(own.length ? 60 : 1);
        expect(Math.abs(found.moves - 7000), 'moves').toBeLessThan(70);
        const bypassed = await firstMove(keyed, own, false);
        expect(Math.abs(bypassed.begins - 100), 'bypassed').toBeLessThan(own.length ? 60 : 1);
      }
    },
  );
});

describe('a control of a processor that is late', () => {
  const quiet = sine(1000, 48000, 24000, 0.05);
  const loud = sine(1000, 48000, 24000, 0.5);
  const bright = sine(9000, 48000, 24000, 0.5);
  it.each([
    ['compressor', 'makeUp', 0, 12, { lookAhead: 10, threshold: 0 }, quiet],
    ['saturation', 'output', 0, -12, {}, quiet],
    ['saturation', 'drive', 0, 24, {}, loud],
    ['deEsser', 'threshold', 0, -60, { attack: 0.1 }, bright],
    ['deEsser', 'range', 0, 24, { attack: 0.1, threshold: -60, ratio: 20 }, bright],
    ['limiter', 'gain', 0, 12, {}, quiet],
  ] as const)('%s: %s acts on the frame of its own signal', (type, control, from, to, params, x) => {
    const at = 12000;
    const latency = processorOf(type).latency(params, 48000);
    expect(latency).toBeGreaterThan(80);
    const lanes: Insert['lanes'] = {
      [control]: [
        [0, from],
        [at / 48000, from],
        [at / 48000, to],
      ],
    };
    const moved = through(type, params, x, { lanes });
    const [before, behind] = [from, to].map((v) => through(type, { ...params, [control]: v }, x));
    const differs = (other: Float32Array) => (v: number, i: number) =>
      i > 6000 && Math.abs(v - other[i]!) > 1e-4;
    const first = moved.findIndex(differs(before!)) - latency - at;
    const last = moved.findLastIndex(differs(behind!)) - latency - at;
    // Nothing before its time, and over in the 120 frames of a jump.
    expect(first).toBeGreaterThanOrEqual(0);
    expect(first).toBeLessThan(50);
    expect(last).toBeGreaterThan(60);
    expect(last).toBeLessThan(122);
  });
});
