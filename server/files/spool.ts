import { createWriteStream, mkdirSync, rmSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { Transform } from 'node:stream';
import { randomUUID } from 'node:crypto';
import type { Request } from 'express';
import { BadRequest } from '../api/errors';
import { checkRoom, NoRoom } from './room';

/** Bytes that one upload may have. */
export const MOST_UPLOAD = 8 * 2 ** 30;
/** Bytes of all uploads under way together, and how many there may be. */
const MOST_SPOOLED = 64 * 2 ** 30;
const MOST_UPLOADS = 500;
/** Bytes after which the room on the disk is looked at again. */
const LOOK = 64 * 2 ** 20;

/** Looks at a file's first bytes. @returns whether it has seen enough; @throws what refuses the file */
export type Judge = (piece: Buffer) => boolean;

/**
 * Writes a request's body into a file. Where it is refused on the way, the request is let go of as it is: who answers it passes
 * over the rest, and the connection is of use again. (`stream.pipeline` would end it.)
 */
async function receive(req: Request, through: Transform, file: string): Promise<void> {
  const out = createWriteStream(file, { mode: 0o600 });
  try {
    await new Promise<void>((done, fail) => {
      req.once('close', () => req.complete || fail(cut()));
      req.once('error', fail);
      through.once('error', fail);
      out.once('error', fail);
      out.once('finish', done);
      if (req.destroyed && !req.complete) return fail(cut());
      req.pipe(through).pipe(out);
    });
  } finally {
    req.unpipe(through);
    through.destroy();
    if (!out.closed) await new Promise<void>((done) => out.destroy().once('close', () => done()));
  }
}
const cut = () => Object.assign(new Error('The connection was cut.'), { code: 'ECONNRESET' });

/**
 * Where bytes wait until they are whole: an upload that is slow, or stands still, holds a file here and no connection of the
 * database. It is bounded in space, and empty after every start.
 */
export class Spool {
  private bytes = 0;
  private count = 0;

  /** @param folder of its own: what is in it is removed */
  constructor(readonly folder: string) {
    rmSync(folder, { recursive: true, force: true });
    mkdirSync(folder, { recursive: true, mode: 0o700 });
  }

  /** A stream that counts what passes, as it takes room here. `release` gives the room back. */
  meter(judge?: Judge): { readonly through: Transform; release(): void } {
    let mine = 0;
    let looked = 0;
    let judged = judge === undefined;
    const through = new Transform({
      transform: (piece: Buffer, _encoding, done) => {
        mine += piece.length;
        this.bytes += piece.length;
        try {
          if (mine > MOST_UPLOAD)
            throw new BadRequest(413, 'size', `The file is larger than ${MOST_UPLOAD} bytes.`);
          if (this.bytes > MOST_SPOOLED) throw new NoRoom('Too much is coming in at once');
          if (!judged) judged = judge!(piece);
        } catch (error) {
          return done(error as Error);
        }
        if (mine - looked < LOOK) return done(null, piece);
        looked = mine;
        checkRoom(this.folder).then(() => done(null, piece), done);
      },
    });
    return {
      through,
      release: () => {
        this.bytes -= mine;
        mine = 0;
      },
    };
  }

  /**
   * Takes in a request's body, has something done with the file, and removes it.
   * @throws what the judge throws, as soon as it does; BadRequest 413; NoRoom
   */
  async take<T>(req: Request, judge: Judge | undefined, use: (file: string) => Promise<T>): Promise<T> {
    const said = Number(req.headers['content-length'] ?? 0);
    if (said > MOST_UPLOAD)
      throw new BadRequest(413, 'size', `The file is larger than ${MOST_UPLOAD} bytes.`);
    if (this.count >= MOST_UPLOADS) throw new NoRoom('Too many files are coming in at once');
    await checkRoom(this.folder, said);
    this.count++;
    const file = join(this.folder, randomUUID());
    const { through, release } = this.meter(judge);
    try {
      await receive(req, through, file);
      return await use(file);
    } finally {
      release();
      this.count--;
      await rm(file, { force: true });
    }
  }
}
