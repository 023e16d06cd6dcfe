import { floatBytes, floatWavHeader } from '@core/formats/audio/wav';
import type { Stems } from '@core/findings/finding';
import type { PrintReading } from '@core/metering/printMeter';
import type { Session } from '@core/session/types';
import type { StemFacts } from './player';
import type { PrintJob, PrintMessage } from './print.worker';
import PrintWorker from './print.worker?worker';
import { runWorker } from './runWorker';

export interface PrintedFile {
  readonly strip: string;
  readonly channels: number;
  readonly frames: number;
  /** Highest sample; 1 is full scale. */
  readonly peak: number;
  readonly reading: PrintReading;
  readonly file: Blob;
}

const work = (job: Omit<PrintJob, 'module'>, each: (m: PrintMessage) => void, signal?: AbortSignal) =>
  runWorker<PrintMessage>(() => new PrintWorker(), job, each, signal);

/** Seconds that a tail may take at most. */
const LONGEST_TAIL = 120;

/**
 * Prints strips to 32-bit float WAV files, from time 0, with the engine that plays.
 * @param tail whether it goes on behind `frames` until it is silent
 */
export async function printStrips(
  session: Session,
  stems: Readonly<Record<string, StemFacts>>,
  strips: readonly string[],
  frames: number,
  tail: boolean,
  progress: (share: number) => void,
  signal?: AbortSignal,
): Promise<readonly PrintedFile[]> {
  // Pieces go into blobs as they come, which a browser keeps out of memory when they are many.
  let length = frames;
  const readings = new Map<string, PrintReading>();
  const files = new Map<string, { channels: number; parts: Blob; peak: number }>();
  await work(
    { session, stems, strips, frames, give: 'audio', ...(tail ? { tail: LONGEST_TAIL } : {}) },
    (m) => {
      if (m.type === 'length') length = m.frames;
      if (m.type === 'reading') readings.set(m.strip, m.reading);
      if (m.type === 'progress') progress(m.share);
      if (m.type !== 'audio') return;
      let peak = files.get(m.strip)?.peak ?? 0;
      for (const v of m.audio) peak = Math.max(peak, Math.abs(v));
      const parts = files.get(m.strip)?.parts;
      files.set(m.strip, {
        channels: m.channels,
        peak,
        parts: new Blob([...(parts ? [parts] : []), floatBytes(m.audio) as Uint8Array<ArrayBuffer>]),
      });
    },
    signal,
  );
  return strips.map((strip) => {
    const { channels, parts, peak } = files.get(strip)!;
    return {
      strip,
      channels,
      frames: length,
      peak,
      reading: readings.get(strip)!,
      file: new Blob(
        [
          floatWavHeader(channels, session.sampleRate, length),
          // With a tail some strips give a little more than others.
          parts.slice(0, length * channels * 4),
        ],
        { type: 'audio/wav' },
      ),
    };
  });
}

/**
 * Peaks of a strip over the session, each of `step` frames, given as they are computed.
 * @returns the highest sample of every strip, and what the stems hold
 */
export async function stripOverview(
  session: Session,
  stems: Readonly<Record<string, StemFacts>>,
  strip: string,
  frames: number,
  step: number,
  give: (peaks: readonly number[]) => void,
  signal: AbortSignal,
): Promise<{ readonly peaks: ReadonlyMap<string, number>; readonly stems: Stems }> {
  const all: number[] = [];
  let found: { peaks: ReadonlyMap<string, number>; stems: Stems } = {
    peaks: new Map(),
    stems: { strips: new Map(), pairs: [] },
  };
  await work(
    { session, stems, strips: [strip], frames, give: { peaksOf: step } },
    (m) => {
      if (m.type === 'strips') found = m;
      if (m.type !== 'peaks') return;
      all.push(...m.peaks);
      give(all);
    },
    signal,
  );
  return found;
}
