import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { EVENTS, Server } from '@tus/server';
import type { Readable } from 'node:stream';
import { randomUUID } from 'node:crypto';
import { Router } from 'express';
import { MOST_UPLOAD, type Spool } from '../files/spool';
import { checkRoom } from '../files/room';
import { BadRequest, errorAnswer } from './errors';

/** Hours after which an upload that was not ended is thrown away. */
const KEPT_HOURS = 24;

const asTus = (error: unknown) => {
  const { status, body } = errorAnswer(error);
  return { status_code: status, body: JSON.stringify(body) };
};

/** Files of uploads under way, whose bytes count as the spool's. */
class SpooledFiles extends FileStore {
  constructor(
    directory: string,
    private readonly spool: Spool,
  ) {
    super({ directory, expirationPeriodInMilliseconds: KEPT_HOURS * 3600_000 });
  }
  override async write(readable: Readable, id: string, offset: number): Promise<number> {
    const { through, release } = this.spool.meter();
    let why: unknown = null;
    through.on('error', (error) => (why = error));
    try {
      return await super.write(readable.pipe(through), id, offset);
    } catch (error) {
      throw why ? asTus(why) : error;
    } finally {
      release();
    }
  }
}

export interface Uploads {
  readonly router: Router;
  /** The file of a whole upload, used and removed. @throws BadRequest 404 where there is none, 409 where it is not whole */
  use<T>(id: string, what: (file: string) => Promise<T>): Promise<T>;
  close(): void;
}

/**
 * Uploads that go on where they were cut: the tus protocol, 1.0.0 (creation, termination, expiration). What is to be done with a
 * file is asked by its id when it is whole.
 */
export function resumableUploads(spool: Spool, path = '/api/uploads'): Uploads {
  const store = new SpooledFiles(join(spool.folder, 'uploads'), spool);
  const tus = new Server({
    path,
    datastore: store,
    maxSize: MOST_UPLOAD,
    relativeLocation: true,
    respectForwardedHeaders: false,
    namingFunction: () => randomUUID(),
    async onUploadCreate(_req, upload) {
      await checkRoom(spool.folder, upload.size ?? 0).catch((error) => {
        // What @tus/server answers with, which is no Error.
        // eslint-disable-next-line @typescript-eslint/only-throw-error
        throw asTus(error);
      });
      return {};
    },
  });
  // What one sender did wrong is told to it.
  tus.on(EVENTS.POST_TERMINATE, () => {});
  const router = Router();
  router.use((req, res) => {
    // The router has taken its own part of the path away; the protocol's locations are whole ones.
    req.url = req.originalUrl;
    return tus.handle(req, res);
  });
  const timer = setInterval(() => void tus.cleanUpExpiredUploads().catch(() => {}), 3600_000).unref();
  return {
    router,
    async use(id, what) {
      const upload = /^[0-9a-f-]{36}$/.test(id) ? await store.getUpload(id).catch(() => null) : null;
      if (!upload)
        throw new BadRequest(404, 'unknown', 'That upload is not here any more: send the file again.');
      if (upload.offset !== upload.size)
        throw new BadRequest(
          409,
          'upload',
          `The upload is not whole: ${upload.offset} of ${upload.size} bytes are here.`,
        );
      const file = join(store.directory, id);
      try {
        const done = await what(file);
        await store.remove(id).catch(() => {});
        return done;
      } catch (error) {
        // What is refused for good goes; what may be asked again stays.
        if (errorAnswer(error).status < 500) await store.remove(id).catch(() => rm(file, { force: true }));
        throw error;
      }
    },
    close: () => clearInterval(timer),
  };
}
