import { effectiveLevel } from '../core/groups/vca';
import { findings } from '../core/findings/findings';
import { signalOrder } from '../core/session/order';
import { audibleStrips } from '../core/routing/solo';
import { trace } from '../core/routing/trace';
import { newInsert, newSend, newSession, newStrip, newVca } from '../core/session/defaults';
import type { Session } from '../core/session/types';

/** 1,000 strips with 5,000 sends: sources into submixes of submixes, five sends each to twenty returns, twelve VCAs. */
export function largeSession(): Session {
  const base = newSession('Large');
  const buses = Array.from({ length: 40 }, (_, i) =>
    newStrip({
      id: `bus${i}`,
      kind: 'submix',
      name: `Bus ${i}`,
      out: { to: i < 32 ? `bus${32 + (i % 8)}` : 'main', on: true },
      inserts: [newInsert({ id: `glue${i}`, type: 'compressor' })],
    }),
  );
  const returns = Array.from({ length: 20 }, (_, i) =>
    newStrip({
      id: `fx${i}`,
      kind: 'return',
      name: `Return ${i}`,
      out: { to: i % 2 ? 'main' : `bus${32 + (i % 8)}`, on: true },
      inserts: [newInsert({ id: `e${i}`, type: i % 5 === 0 ? 'delay' : 'reverb' })],
    }),
  );
  const count = 1000 - buses.length - returns.length - base.strips.length;
  const sources = Array.from({ length: count }, (_, i) =>
    newStrip({
      id: `s${i}`,
      kind: 'source',
      name: `Strip ${i}`,
      faderDb: -12 + (i % 7),
      pan: ((i % 9) - 4) / 4,
      out: { to: `bus${i % 40}`, on: true },
      sends: Array.from({ length: 5 + (i < 5000 - count * 5 ? 1 : 0) }, (_, k) =>
        newSend({
          id: `x${i}-${k}`,
          to: `fx${(i + k * 3) % 20}`,
          levelDb: -18,
          tap: k % 4 === 3 ? 'pre' : 'post',
        }),
      ),
    }),
  );
  const vcas = Array.from({ length: 12 }, (_, i) =>
    newVca({
      id: `v${i}`,
      name: `VCA ${i}`,
      faderDb: -i,
      members: i < 8 ? [`bus${i}`, `fx${i}`] : sources.slice(i * 20, i * 20 + 20).map((s) => s.id),
    }),
  );
  return { ...base, strips: [...sources, ...buses, ...returns, ...base.strips], vcas };
}

/** Milliseconds of order, levels, audible set, findings and one trace together, nothing remembered from before. */
export function routingOnce(): {
  total: number;
  parts: Record<string, number>;
  sends: number;
  found: number;
} {
  const session = largeSession();
  const parts: Record<string, number> = {};
  const take = <T>(name: string, run: () => T): T => {
    const begun = performance.now();
    const result = run();
    parts[name] = performance.now() - begun;
    return result;
  };
  take('order', () => signalOrder(session));
  take('levels', () => session.strips.map((s) => effectiveLevel(session, s)));
  take('audible', () => audibleStrips(session));
  const found = take('findings', () => findings(session)).length;
  take('trace', () => trace(session, 's0', 'main'));
  return {
    total: Object.values(parts).reduce((a, b) => a + b, 0),
    parts,
    sends: session.strips.reduce((n, s) => n + s.sends.length, 0),
    found,
  };
}
