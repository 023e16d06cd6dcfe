import { createSHA256 } from 'hash-wasm';
import { readFactsBehind } from '@core/formats/audio/aiff';
import { AudioStream, judgeSize } from '@core/formats/audio/audioFile';
import { groupsOf, takeChannels, type ChannelGroup } from '@core/formats/audio/channels';
import { FactsBehind, MOST_HEADER_BYTES, type AudioFacts } from '@core/formats/audio/facts';
import { depthOf } from '@core/formats/audio/samples';
import { stemHead } from '@core/formats/audio/stemName';
import { Refusal } from '@core/base/refusal';
import type { Channels } from '@core/session/types';

/** What a stem of a file will be called. */
export interface NamedStem {
  readonly stem: string;
  readonly channels: Channels;
  readonly place: string | null;
}

/** Bytes that are read at once. */
const PIECE = 4 << 20;

/**
 * Names the stems that a file becomes, by its samples, as the server does.
 * @param rate the session's
 * @param cut whether a file that is cut off is taken as far as it goes
 * @param progress told how many bytes were read
 * @returns null where the file's rate is another: what is converted is named by whoever converts it
 * @throws Refusal `audio` or `cut` saying what is wrong with the file
 */
export async function nameStems(
  file: Blob,
  rate: number,
  cut: boolean,
  progress: (bytes: number) => void = () => {},
): Promise<readonly NamedStem[] | null> {
  try {
    return await named(file, rate, cut, progress, null);
  } catch (error) {
    if (!(error instanceof FactsBehind)) throw error;
    const tail = await file.slice(error.next, error.next + MOST_HEADER_BYTES).arrayBuffer();
    return named(file, rate, cut, progress, readFactsBehind(error, new Uint8Array(tail)));
  }
}
async function named(
  file: Blob,
  rate: number,
  cut: boolean,
  progress: (bytes: number) => void,
  told: AudioFacts | null,
): Promise<readonly NamedStem[] | null> {
  const stream = new AudioStream(cut, told);
  let groups: readonly ChannelGroup[] = [];
  let hashes: readonly Awaited<ReturnType<typeof createSHA256>>[] = [];
  /** @returns whether what the file says can be named here */
  const begin = async (facts: AudioFacts): Promise<boolean> => {
    // What is cut off is told before all of it is read.
    if (!cut) judgeSize(facts, file.size);
    if (facts.sampleRate !== rate) return false;
    if (groups.length) return true;
    groups = groupsOf(facts);
    hashes = await Promise.all(groups.map(() => createSHA256()));
    groups.forEach((group, k) =>
      hashes[k]!.init().update(stemHead(rate, group.channels.length, depthOf(facts.format))),
    );
    return true;
  };
  /** @returns whether it goes on */
  const take = async (parts: AsyncIterable<Uint8Array>): Promise<boolean> => {
    for await (const kept of parts) {
      const facts = stream.facts!;
      if (!(await begin(facts))) return false;
      const depth = depthOf(facts.format);
      groups.forEach((group, k) => hashes[k]!.update(takeChannels(kept, depth, facts.channels, group)));
    }
    return stream.facts === null || begin(stream.facts);
  };
  for (let at = 0; at < file.size; at += PIECE) {
    const piece = new Uint8Array(await file.slice(at, at + PIECE).arrayBuffer());
    if (!(await take(stream.push(piece)))) return null;
    progress(Math.min(file.size, at + PIECE));
  }
  await take(stream.end());
  if (stream.frames === 0) throw new Refusal('audio', 'it holds no audio');
  return groups.map((group, k) => ({
    stem: `sha256:${hashes[k]!.digest('hex')}`,
    channels: group.channels.length as Channels,
    place: group.place,
  }));
}
