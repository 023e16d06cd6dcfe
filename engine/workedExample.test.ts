import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { newSend, newSession, newStrip, newVca } from '../core/session/defaults';
import type { Session } from '../core/session/types';
import { print } from './print';
import { engineModule } from './testing/run';

const base = newSession('Worked example');
const session: Session = {
  ...base,
  strips: [
    newStrip({
      id: 'voice',
      kind: 'source',
      name: 'Voice',
      stem: 'voice',
      trimDb: 6,
      pan: 0.5,
      out: { to: 'main', on: true },
      lanes: {
        fader: [
          [0, 0],
          [0.1, 0],
          [0.15, -60],
        ],
      },
      sends: [newSend({ id: 'x', to: 'hall', tap: 'input', levelDb: -12, pan: -1 })],
    }),
    newStrip({ id: 'hall', kind: 'return', name: 'Hall', out: { to: null, on: true } }),
    ...base.strips,
  ],
  vcas: [
    newVca({
      id: 'lead',
      name: 'Lead',
      faderDb: -2,
      members: ['voice'],
      lanes: {
        mute: [
          [0, 0],
          [0.2, 1],
        ],
      },
    }),
  ],
};

it('the worked example of the format document is what a print gives, number by number', async () => {
  const text = readFileSync(new URL('../docs/session-format.md', import.meta.url), 'utf8');
  const rows = [...text.matchAll(/^\| (\d+) \| ([\d.]+) \| ([\d.]+) \| ([\d.]+) \|$/gm)].map((m) =>
    m.slice(1).map(Number),
  );
  expect(rows.length).toBe(7);
  const stems = { read: (_strip: object, _start: number, into: Float32Array) => void into.fill(0.5) };
  const audio = new Map<string, number[]>();
  const request = { session, strips: ['main', 'hall'], frames: 12000, stems, module: engineModule };
  for await (const pieces of print(request))
    for (const { capture, audio: part } of pieces) {
      const list = audio.get(capture.strip) ?? [];
      for (const v of part) list.push(v);
      audio.set(capture.strip, list);
    }
  for (const [frame, left, right, hall] of rows as [number, number, number, number][]) {
    const near = (found: number, wanted: number) =>
      // Six digits, and a tenth of a decibel where a lane moves.
      expect(Math.abs(found - wanted), `frame ${frame}`).toBeLessThanOrEqual(2e-6 + 0.0002 * wanted);
    near(audio.get('main')![2 * frame]!, left);
    near(audio.get('main')![2 * frame + 1]!, right);
    near(audio.get('hall')![2 * frame]!, hall);
  }
});
