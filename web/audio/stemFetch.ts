import { say } from './texts';

/** Frames that are fetched at once; ranges begin at multiples of it, so that the browser's cache serves them again. */
export const PIECE_FRAMES = 65536;

/** A piece of a stem from the server: interleaved frames. */
export async function fetchPiece(
  stem: string,
  piece: number,
  signal?: AbortSignal,
): Promise<Float32Array<ArrayBuffer>> {
  const response = await fetch(
    `/api/stems/${stem}/pcm?start=${piece * PIECE_FRAMES}&frames=${PIECE_FRAMES}`,
    { signal },
  );
  if (!response.ok) throw new Error(say('stemCouldNotFetchedServer', { status: response.status }));
  return new Float32Array(await response.arrayBuffer());
}
