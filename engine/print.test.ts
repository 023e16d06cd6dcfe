import { describe, expect, it } from 'vitest';
import { print, type PrintRequest, type StemReader } from './print';
import { engineModule, impulse } from './testing/run';
import { sessionWith } from './testing/through';

const RATE = 48000;
/** An impulse at the start of every source. */
const stems: StemReader = {
  read: (strip, start, into) => {
    into.fill(0);
    if (start === 0) for (let c = 0; c < strip.channels; c++) into.set(impulse(1), c);
  },
};
async function printed(request: Omit<PrintRequest, 'stems' | 'module'>) {
  const files = new Map<string, number[]>();
  let frames = 0;
  for await (const pieces of print({ ...request, stems, module: engineModule, ended: (n) => (frames = n) }))
    for (const { capture, audio } of pieces) {
      const file = files.get(capture.strip) ?? [];
      files.set(capture.strip, file);
      for (let i = 0; i < audio.length; i += capture.channels) file.push(audio[i]!);
    }
  return { files, frames };
}
const highest = (x: readonly number[]) => x.reduce((m, v) => Math.max(m, Math.abs(v)), 0);

describe('a print', () => {
  const wet = sessionWith([{ type: 'reverb', params: { decay: 1.5, preDelay: 100 } }]);
  it('is as long as asked where nothing else is asked', async () => {
    const { files, frames } = await printed({ session: wet, strips: ['main', 'a'], frames: 5000 });
    expect(frames).toBe(5000);
    for (const file of files.values()) expect(file).toHaveLength(5000);
  });
  it('with a tail goes on until all of it is silent, and is otherwise the same, to the bit', async () => {
    const { files, frames } = await printed({ session: wet, strips: ['main', 'a'], frames: 5000, tail: 60 });
    // 90 dB of a decay of 60 dB in 1.5 s take 2.25 s; it is louder than its impulse by a little, and then it has to stay silent.
    expect(frames / RATE).toBeGreaterThan(1.8);
    expect(frames / RATE).toBeLessThan(5);
    const long = await printed({ session: wet, strips: ['main', 'a'], frames });
    for (const [strip, file] of files) {
      expect(file.length).toBeGreaterThanOrEqual(frames);
      expect(file.slice(0, frames)).toEqual(long.files.get(strip));
      expect(highest(file.slice(frames - RATE / 4))).toBeLessThan(10 ** (-90 / 20));
    }
  });
  it('of a part of a song plays nothing behind its end', async () => {
    const dry = sessionWith([]);
    const files: number[] = [];
    const tone: StemReader = { read: (_, __, into) => void into.fill(0.5) };
    for await (const [piece] of print({
      session: dry,
      strips: ['a'],
      frames: 5000,
      stems: tone,
      module: engineModule,
      tail: 10,
    }))
      for (let i = 0; i < piece!.audio.length; i += piece!.capture.channels) files.push(piece!.audio[i]!);
    expect(highest(files.slice(0, 5000))).toBeGreaterThan(0.3);
    expect(highest(files.slice(5000))).toBe(0);
  });
  it('does not take the time between two repeats for silence', async () => {
    const slow = sessionWith([{ type: 'delay', params: { note: 0, time: 2000, feedback: 50 } }]);
    const { frames } = await printed({ session: slow, strips: ['main'], frames: 128, tail: 60 });
    // 6 dB a repeat: fifteen of them to -90 dBFS.
    expect(frames / RATE).toBeGreaterThan(28);
    expect(frames / RATE).toBeLessThan(38);
  });
  it('of a tail that never ends stops where it is told to', async () => {
    const endless = sessionWith([{ type: 'delay', params: { note: 0, time: 100, feedback: 99 } }]);
    const { frames } = await printed({ session: endless, strips: ['main'], frames: 128, tail: 4 });
    expect(frames).toBe(128 + 4 * RATE);
  });
});
