import type { Channels } from '@core/session/types';
import type { FeedSource } from '@/audio/feeder';
import { JOIN_FRAMES, ringBytes, songAt, type Cue } from '@/audio/shared';
import { SLICE_FRAMES, type KeptSlice } from '@/audio/slices';

/** What a stem has at a frame: whole numbers, which floats hold exactly. */
export const sample = (stem: string, frame: number, channel: number) =>
  (stem.charCodeAt(0) * 1000 + frame * 2 + channel) % 1_000_003;

/** A slice of a stem of such samples. */
export function kept(stem: string, start: number, frames: number, channels: number): KeptSlice {
  const floats = Float32Array.from({ length: frames * channels }, (_, i) =>
    sample(stem, start + Math.floor(i / channels), i % channels),
  );
  return { depth: 'f32', channels: channels as Channels, bytes: new Uint8Array(floats.buffer) };
}

/** A source that plays the stem of its own name. */
export function source(strip: string, more: Partial<FeedSource> = {}): FeedSource {
  const channels = more.channels ?? 1;
  return {
    strip,
    channels,
    stem: strip,
    stemChannels: channels,
    stemFrames: 10 * SLICE_FRAMES,
    ring: new SharedArrayBuffer(ringBytes(channels)),
    ...more,
  };
}

/** What a source plays at a frame: in the last frames of a loop its end goes over into what stands before its start. */
export function joined(s: FeedSource, cue: Cue, frame: number, channel: number): number {
  const value = (at: number) => (at >= 0 && at < s.stemFrames ? sample(s.stem!, at, channel) : 0);
  const at = songAt(cue, frame);
  const span = cue.loopEnd - cue.loopStart;
  if (span <= 0 || at < cue.loopStart || cue.start >= cue.loopEnd) return value(at);
  const way = Math.min(JOIN_FRAMES, span);
  const share = Math.max(0, (at - cue.loopEnd + way + 1) / way);
  const eased = share ** 5 * (126 - 420 * share + 540 * share ** 2 - 315 * share ** 3 + 70 * share ** 4);
  return value(at) + eased * (value(at - span) - value(at));
}
