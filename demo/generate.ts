import { mkdir, rename, rm, writeFile, access } from 'node:fs/promises';
import { join } from 'node:path';
import { floatBytes, floatWavHeader } from '../core/formats/audio/wav';
import { writeSessionDocument } from '../core/formats/sessionDocument';
import { stripMap } from '../core/session/lookup';
import { demoSession } from './session';
import { LENGTH, STEMS } from './stems';

/** Interleaves the channels of a stem. */
export function interleaved(channels: readonly Float32Array[]): Float32Array {
  if (channels.length === 1) return channels[0]!;
  const out = new Float32Array(channels[0]!.length * channels.length);
  channels.forEach((c, k) => c.forEach((v, i) => (out[i * channels.length + k] = v)));
  return out;
}

/**
 * Writes the demo as a session package in a folder, the same bytes on every run. An existing one is left as it is.
 * @param seconds length of the stems; the whole piece lasts 32 s
 */
export async function generateDemo(
  folder: string,
  seconds = LENGTH,
  progress: (done: number, of: number) => void = () => {},
): Promise<void> {
  const there = await access(join(folder, 'session.json')).then(
    () => true,
    () => false,
  );
  if (there) return;
  const session = demoSession();
  const building = `${folder}.part`;
  await rm(building, { recursive: true, force: true });
  await mkdir(join(building, 'stems'), { recursive: true });
  const strips = stripMap(session);
  const ids = Object.keys(STEMS);
  for (const [n, id] of ids.entries()) {
    const audio = STEMS[id]!(session.sampleRate, seconds);
    const file = join(building, strips.get(id)!.stem!);
    await writeFile(
      file,
      Buffer.concat([
        floatWavHeader(audio.length, session.sampleRate, audio[0]!.length),
        floatBytes(interleaved(audio)),
      ]),
    );
    progress(n + 1, ids.length);
  }
  await writeFile(join(building, 'session.json'), writeSessionDocument(session));
  await rm(folder, { recursive: true, force: true });
  await rename(building, folder);
}
