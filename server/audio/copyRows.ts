import { PART_BYTES, type StemParts } from './stemReader';

/** What begins and ends the binary form of COPY (PostgreSQL, "COPY", File Formats, Binary Format). */
export const COPY_BEGINS = Buffer.concat([Buffer.from('PGCOPY\n\xff\r\n\0', 'latin1'), Buffer.alloc(8)]);
export const COPY_ENDS = Buffer.from([0xff, 0xff]);

const SILENCE = Buffer.alloc(PART_BYTES);
/** Bytes of a row beside its data: three fields, two of them numbers. */
const ROW = 2 + 8 + 8 + 4;

/** Rows of `stem_chunks` in the binary form of COPY: stem, index and data. A part that is silent has none. */
export function copyRows(stem: number, { first, data }: StemParts): Uint8Array<ArrayBuffer> {
  const rows = Buffer.from(new ArrayBuffer(data.length + Math.ceil(data.length / PART_BYTES) * ROW));
  let at = 0;
  for (let from = 0, index = first; from < data.length; from += PART_BYTES, index++) {
    const part = data.subarray(from, from + PART_BYTES);
    if (Buffer.compare(part, SILENCE.subarray(0, part.length)) === 0) continue;
    at = rows.writeInt16BE(3, at);
    at = rows.writeInt32BE(4, at);
    at = rows.writeInt32BE(stem, at);
    at = rows.writeInt32BE(4, at);
    at = rows.writeInt32BE(index, at);
    at = rows.writeInt32BE(part.length, at);
    rows.set(part, at);
    at += part.length;
  }
  return new Uint8Array(rows.buffer, 0, at);
}
