import { randomUUID } from 'node:crypto';
import { floatWavHeader } from '../core/formats/audio/wav';
import { newInsert, newSend, newSession, newStrip } from '../core/session/defaults';
import type { Session } from '../core/session/types';

/** Bands of an equalizer. */
export const BANDS = [
  { bell: 'bell1', hertz: 250, gain: 3 },
  { bell: 'bell2', hertz: 800, gain: -2 },
  { bell: 'bell3', hertz: 2500, gain: 4 },
  { bell: 'bell4', hertz: 5000, gain: -3 },
] as const;
/** Four bands of an equalizer and a compressor. */
const stripInserts = (i: number) => [
  newInsert({
    id: `e${i}`,
    type: 'equalizer',
    params: Object.fromEntries(
      BANDS.flatMap((b) => [
        [`${b.bell}Frequency`, b.hertz],
        [`${b.bell}Gain`, b.gain],
      ]),
    ),
  }),
  newInsert({ id: `c${i}`, type: 'compressor', params: { threshold: -30, ratio: 3 } }),
];

/** Mono strips into eight submixes, all of them sent to two reverb returns. */
export function graph(strips: number, inserts = true): Session {
  const base = newSession(`${strips} strips`);
  const buses = Array.from({ length: 8 }, (_, i) =>
    newStrip({ id: `bus${i}`, kind: 'submix', name: `Bus ${i}`, faderDb: -3, out: { to: 'main', on: true } }),
  );
  const returns = [0, 1].map((i) =>
    newStrip({
      id: `rev${i}`,
      kind: 'return',
      name: `Reverb ${i}`,
      out: { to: 'main', on: true },
      inserts: [newInsert({ id: `r${i}`, type: 'reverb' })],
    }),
  );
  const sources = Array.from({ length: strips }, (_, i) =>
    newStrip({
      id: `s${i}`,
      kind: 'source',
      name: `Strip ${i}`,
      faderDb: -12,
      pan: ((i % 9) - 4) / 4,
      inserts: inserts ? stripInserts(i) : [],
      out: { to: `bus${i % 8}`, on: true },
      sends: [0, 1].map((k) => newSend({ id: `x${i}-${k}`, to: `rev${k}`, levelDb: -18 })),
    }),
  );
  return { ...base, strips: [...sources, ...buses, ...returns, ...base.strips] };
}

/** Asks the server of a bench; JSON, or a file. */
export type Ask = (path: string, body: unknown) => Promise<Record<string, unknown>>;
export const asking =
  (base: string): Ask =>
  async (path, body) => {
    const file = body instanceof Blob;
    const response = await fetch(`${base}/api${path}`, {
      method: 'POST',
      headers: { 'Content-Type': file ? 'application/octet-stream' : 'application/json' },
      body: file ? body : JSON.stringify(body),
    });
    const answer = (await response.json()) as Record<string, unknown>;
    if (!response.ok) throw new Error(JSON.stringify(answer));
    return answer;
  };

const RATE = 48000;
/** Makes a session on a server whose sources play eight tones of so many seconds. @returns its id */
export async function makePlaying(ask: Ask, session: Session, seconds: number): Promise<string> {
  const stems: string[] = [];
  for (let k = 0; k < 8; k++) {
    const audio = Float32Array.from(
      { length: seconds * RATE },
      (_, i) => Math.sin(i * 0.0131 * (k + 1)) * 0.3,
    );
    const header = floatWavHeader(1, RATE, audio.length);
    const file = new Blob([header, new Uint8Array(audio.buffer)]);
    stems.push((await ask(`/stems?name=${k}.wav&rate=${RATE}`, file)).stem as string);
  }
  const { id } = await ask('/sessions', { name: `${session.name} that play` });
  const strips = session.strips.filter((s) => s.id !== 'main');
  await ask(`/sessions/${id as string}/commits`, {
    revision: 0,
    changeId: randomUUID(),
    label: 'bench',
    commands: strips.reverse().map((s, i) => ({
      type: 'strip.add',
      at: 0,
      strip: s.kind === 'source' ? { ...s, stem: stems[i % 8]! } : s,
    })),
  });
  return id as string;
}
