import { beforeEach, describe, expect, it, vi } from 'vitest';
import { writeReading } from './meterReadings';
import type { MeterWorkerMessage } from './meters.worker';
import { TAPS } from './shared';
import type { WorkletMessage } from './worklet';

const workers = vi.hoisted(() => ({
  made: [] as { told: MeterWorkerMessage[]; ended: boolean }[],
}));
vi.mock('./meters.worker?worker', () => ({
  default: class {
    told: MeterWorkerMessage[] = [];
    ended = false;
    constructor() {
      workers.made.push(this);
    }
    postMessage(m: MeterWorkerMessage) {
      this.told.push(m);
    }
    terminate() {
      this.ended = true;
    }
  },
}));
const { LiveMeters } = await import('./liveMeters');

let told: WorkletMessage[];
let meters: InstanceType<typeof LiveMeters>;
beforeEach(() => {
  told = [];
  workers.made.length = 0;
  meters = new LiveMeters((m) => told.push(m));
});
const taps = () => {
  const last = told.findLast((m) => m.type === 'taps');
  return last?.type === 'taps' ? last.taps.map((t) => t?.strip ?? null) : [];
};

describe('strips that are metered', () => {
  it('are written once, however many look at them, until the last looks away', () => {
    const [one, two] = [meters.watch('bass')!, meters.watch('bass')!];
    expect(taps().filter(Boolean)).toEqual(['bass']);
    one();
    one();
    expect(taps()).toContain('bass');
    two();
    expect(taps().filter(Boolean)).toEqual([]);
  });
  it('are no more than there are taps for', () => {
    const ends = Array.from({ length: TAPS }, (_, i) => meters.watch(`s${i}`));
    expect(ends).not.toContain(null);
    expect(meters.watch('one more')).toBeNull();
    ends[4]!();
    expect(meters.watch('one more')).not.toBeNull();
    expect(taps()[4]).toBe('one more');
  });
  it('say nothing before they were heard, nor of what stood in their place before', () => {
    const end = meters.watch('bass')!;
    expect(meters.read('bass')).toBeNull();
    meters.begin(48000);
    const begin = workers.made[0]!.told[0]!;
    if (begin.type !== 'begin') throw new Error('It was not begun.');
    const memory = new Float64Array(begin.readings);
    const reading = {
      momentary: -20,
      shortTerm: null,
      integrated: null,
      maxMomentary: -19,
      maxShortTerm: null,
      range: null,
      truePeakDb: -3,
      correlation: -0.5,
      mono: -Infinity,
      seconds: 2,
      levels: [-6, null],
    };
    writeReading(memory, 0, 1, reading);
    expect(meters.read('bass')).toEqual(reading);
    end();
    meters.watch('other');
    expect(meters.read('bass')).toBeNull();
    expect(meters.read('other')).toBeNull();
  });
  it('are told to each audio thread that begins, with the scale', () => {
    meters.watch('bass');
    meters.setScale('k14');
    told.length = 0;
    meters.begin(44100);
    expect(taps()[0]).toBe('bass');
    expect(workers.made[0]!.told.slice(1)).toEqual([{ type: 'scale', id: 'k14' }]);
    meters.end();
    expect(workers.made[0]!.ended).toBe(true);
    expect(meters.read('bass')).toBeNull();
  });
  it('are gathered anew, one of them or all', () => {
    meters.watch('bass');
    meters.watch('lead');
    meters.begin(48000);
    const { told: heard } = workers.made[0]!;
    heard.length = 0;
    meters.restart('lead');
    expect(heard).toEqual([{ type: 'restart', tap: 1 }]);
    meters.restart();
    expect(heard.slice(1)).toEqual([
      { type: 'restart', tap: 0 },
      { type: 'restart', tap: 1 },
    ]);
  });
});
