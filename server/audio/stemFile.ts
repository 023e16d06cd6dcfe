import type { Request, Response } from 'express';
import parseRange from 'range-parser';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { Sequelize } from 'sequelize';
import { wavHeader } from '../../core/formats/audio/wav';
import { Refusal } from '../../core/base/refusal';
import type { StemRow } from '../database/models';
import { stemFrameBytes } from './stemBytes';
import { nearBytes } from './stemCache';
import { stemAddress, stemWavBytes } from './stemStore';

/** Bytes of audio that are read at once. */
const AT_ONCE = 1 << 20;

/** Bytes `from` to `to` of a stem's WAV file, piece by piece. @throws where it is swept meanwhile, or the database is away */
async function* fileBytes(
  sequelize: Sequelize,
  row: StemRow,
  from: number,
  to: number,
): AsyncGenerator<Buffer> {
  const head = Buffer.from(wavHeader(row.depth, row.channels, row.sampleRate, row.frames));
  const each = stemFrameBytes(row);
  if (from < head.length) yield head.subarray(from, to);
  const end = head.length + row.frames * each;
  for (let at = Math.max(from, head.length); at < Math.min(to, end);) {
    const start = Math.floor((at - head.length) / each);
    const frames = Math.floor(AT_ONCE / each);
    let away: unknown = null;
    const [bytes] = await nearBytes(sequelize, [{ row, start, frames }], (error) => (away = error));
    if (bytes === undefined) throw away;
    if (!bytes) throw new Refusal('unknown', `There is no stem \`${stemAddress(row.sha256.trim())}\`.`);
    const begins = head.length + start * each;
    yield bytes.subarray(at - begins, Math.min(to, end) - begins);
    at = begins + bytes.length;
  }
  // A chunk of an odd number of bytes has one more.
  if (to > end) yield Buffer.alloc(to - Math.max(from, end));
}

/** Whether what is asked for is all right with what is there: RFC 9110, 13.1.1 and 13.1.5. */
const named = (field: string, tag: string) =>
  field.trim() === '*' || field.split(',').some((t) => t.trim() === tag);

/**
 * Answers with a stem as a WAV file of its own depth, or with the part of it that is asked for: RFC 9110, 13 and 14. Of several
 * parts in one question all is given, as 14.2 leaves it to the server.
 */
export async function sendStemFile(
  sequelize: Sequelize,
  row: StemRow,
  name: string,
  req: Request,
  res: Response,
): Promise<void> {
  const size = stemWavBytes(row);
  // What is named by its content never changes.
  const tag = `"${row.sha256.trim()}.wav"`;
  res.set('ETag', tag);
  const match = req.get('If-Match');
  if (match !== undefined && !named(match, tag)) return void res.status(412).end();
  const cached = { 'Cache-Control': 'public, max-age=31536000, immutable', 'Accept-Ranges': 'bytes' };
  // The tag may have been weakened on its way: 13.1.2.
  if (named((req.get('If-None-Match') ?? '').replaceAll('W/', ''), tag))
    return void res.set(cached).status(304).end();
  const still = req.get('If-Range');
  // The last so many bytes of fewer are all of them (14.1.2), which the package does not know.
  const asked = req.get('Range')?.replace(/([=,]\s*-)(\d+)/g, (_, minus: string, last: string) => {
    return `${minus}${Math.min(Number(last), size)}`;
  });
  const ranges =
    asked !== undefined && req.method === 'GET' && (still === undefined || still.trim() === tag)
      ? parseRange(size, asked, { combine: true })
      : undefined;
  if (ranges === -1)
    return void res
      .status(416)
      .set({ 'Accept-Ranges': 'bytes', 'Content-Range': `bytes */${size}` })
      .end();
  const one = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1;
  const [from, to] = one ? [ranges[0]!.start, ranges[0]!.end + 1] : [0, size];
  const bytes = fileBytes(sequelize, row, from, to);
  // What cannot be given is told before anything is said.
  const first = req.method === 'HEAD' ? null : await bytes.next();
  res
    .set(cached)
    .set('Content-Length', String(to - from))
    .type('audio/wav')
    .attachment(name);
  if (one) res.status(206).set('Content-Range', `bytes ${from}-${to - 1}/${size}`);
  if (!first) return void res.end();
  const all = async function* () {
    if (!first.done) yield first.value;
    yield* bytes;
  };
  await pipeline(Readable.from(all(), { objectMode: false }), res).catch((error) => {
    if ((error as { code?: string }).code !== 'ERR_STREAM_PREMATURE_CLOSE') throw error;
  });
}
