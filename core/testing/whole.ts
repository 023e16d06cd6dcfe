/** All that comes, one after the other. */
export async function whole(parts: AsyncIterable<Uint8Array>): Promise<Buffer> {
  const all: Uint8Array[] = [];
  for await (const part of parts) all.push(part.slice());
  return Buffer.concat(all);
}
