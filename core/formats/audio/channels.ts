import type { Channels } from '../../session/types';
import type { AudioFacts } from './facts';
import { depthBytes, type Depth } from './samples';

/** Channels of a file that make one strip. */
export interface ChannelGroup {
  /** Which of the file's, counted from 0: one, or a left and a right one. */
  readonly channels: readonly [number] | readonly [left: number, right: number];
  /** What tells it from the file's others; null where the file is one strip. */
  readonly place: string | null;
}

/**
 * Where loudspeakers stand, in the order of the bits of a channel mask: "Multiple Channel Audio Data and WAVE Files" (Microsoft,
 * 2001); a letter after the point says which side of a pair.
 */
const SPEAKERS = [
  'front.l',
  'front.r',
  'centre',
  'lfe',
  'rear.l',
  'rear.r',
  'inner.l',
  'inner.r',
  'rear centre',
  'side.l',
  'side.r',
  'top',
  'top front.l',
  'top front centre',
  'top front.r',
  'top rear.l',
  'top rear centre',
  'top rear.r',
] as const;

/** How channels of FLAC stand by their number, where nothing else is said: RFC 9639, 9.1.3. */
const FLAC_MASKS: Record<number, number> = {
  3: 0b111,
  4: 0b110011,
  5: 0b110111,
  6: 0b111111,
  7: 0b11100001111,
  8: 0b11000111111,
};
export const flacMask = (channels: number): number | null => FLAC_MASKS[channels] ?? null;

/**
 * A file's channels as strips: those of a left and a right loudspeaker in pairs, all others alone. A file of one or two channels is
 * one strip. Where no mask tells, each is alone, by its number from 1.
 */
export function groupsOf({ channels, mask }: Pick<AudioFacts, 'channels' | 'mask'>): readonly ChannelGroup[] {
  if (channels === 1) return [{ channels: [0], place: null }];
  if (channels === 2) return [{ channels: [0, 1], place: null }];
  const speakers = SPEAKERS.filter((_, bit) => (mask ?? 0) & (1 << bit)).slice(0, channels);
  const groups: ChannelGroup[] = [];
  for (let c = 0; c < channels; c++) {
    const speaker = speakers[c];
    if (speaker === undefined) groups.push({ channels: [c], place: String(c + 1) });
    else {
      const [place, side] = speaker.split('.') as [string, 'l' | 'r' | undefined];
      const other =
        side && speakers.indexOf(`${place}.${side === 'l' ? 'r' : 'l'}` as (typeof SPEAKERS)[number]);
      if (other === undefined || other < 0) groups.push({ channels: [c], place });
      else if (side === 'l') groups.push({ channels: [c, other], place });
    }
  }
  return groups;
}

/** A group's samples out of a file's kept ones: whole frames, interleaved. */
export function takeChannels(
  kept: Uint8Array,
  depth: Depth,
  channels: number,
  group: ChannelGroup,
): Uint8Array {
  if (group.channels.length === channels) return kept;
  const size = depthBytes(depth);
  const [from, to] = [channels * size, group.channels.length * size];
  const frames = Math.floor(kept.length / from);
  const out = new Uint8Array(frames * to);
  group.channels.forEach((channel, k) => {
    for (let i = 0, at = channel * size, into = k * size; i < frames; i++, at += from, into += to)
      for (let b = 0; b < size; b++) out[into + b] = kept[at + b]!;
  });
  return out;
}
export const groupChannels = (group: ChannelGroup) => group.channels.length as Channels;
