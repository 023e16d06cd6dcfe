import { say } from '../texts';

/** An error that the server gave, in its one shape. */
export class ServerError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly body: { readonly error: object } | null = null,
  ) {
    super(message);
  }
  /** Whether the same request may succeed later. */
  get away(): boolean {
    return [0, 408, 425, 429, 502, 503, 504, 507].includes(this.status);
  }
}

/** Milliseconds in which the way to the question is gone once. */
const PAIRING_MS = 10_000;
let pairing = false;
/**
 * Who has not been let in, or was taken off, is asked for the code. This is the one way there, and it is gone once:
 * a page that shows the question and is then loaded again forgets what was typed meanwhile.
 */
export function toPairing(): void {
  if (pairing || typeof location === 'undefined' || location.pathname === '/pair') return;
  pairing = true;
  // Where going there was prevented, or the page came back from the browser's memory, it is gone again.
  setTimeout(() => (pairing = false), PAIRING_MS);
  location.assign(`/pair?next=${encodeURIComponent(location.pathname)}`);
}

export async function failure(response: Response): Promise<ServerError> {
  if (response.status === 401) toPairing();
  const body = (await response.json().catch(() => null)) as {
    error: { code: string; message: string; missed?: unknown };
  } | null;
  return new ServerError(
    response.status,
    body?.error.code ?? 'unknown',
    body?.error.message ?? say('theServerAnsweredStatus', { status: response.status }),
    body,
  );
}

/** @throws ServerError; of status 0 when the server cannot be reached */
export async function ask<T>(method: string, path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      headers: body === undefined ? {} : { 'Content-Type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new ServerError(0, 'away', say('serverDoesNotAnswerZonula'));
  }
  if (!response.ok) throw await failure(response);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

/** Bytes that are sent in one piece: what is refused, or cut, costs no more than one. */
const PIECE = 8 << 20;
/** Milliseconds after which a piece that did not arrive is sent again. */
const AGAIN_MS = [300, 1000, 3000, 5000, 10_000, 10_000, 20_000, 30_000, 60_000];

/**
 * Sends a file that goes on where it was when the connection is cut, by the tus protocol; then has something done with it.
 * @param path what is done with the file, without the upload's name
 * @throws ServerError
 */
export async function upload<T>(
  path: string,
  file: File,
  progress: (share: number) => void,
  signal?: AbortSignal,
): Promise<T> {
  const { Upload, DetailedError } = await import('tus-js-client');
  const name = await new Promise<string>((done, fail) => {
    const sending = new Upload(file, {
      endpoint: '/api/uploads',
      chunkSize: PIECE,
      retryDelays: AGAIN_MS,
      storeFingerprintForResuming: false,
      removeFingerprintOnSuccess: true,
      onProgress: (sent, all) => progress(all > 0 ? sent / all : 0),
      onSuccess: () => done(sending.url!.split('/').at(-1)!),
      onError(error) {
        const answer = error instanceof DetailedError ? error.originalResponse : null;
        if (!answer) return fail(new ServerError(0, 'away', say('serverDoesNotAnswer')));
        fail(errorIn(answer.getStatus(), answer.getBody()));
      },
      onShouldRetry: (error) => {
        const status = error.originalResponse?.getStatus() ?? 0;
        return status === 0 || status === 409 || status === 423 || status === 503;
      },
    });
    signal?.addEventListener('abort', () => {
      void sending.abort(true).catch(() => {});
      fail(new ServerError(0, 'stopped', 'Stopped.'));
    });
    sending.start();
  });
  const use = `${path}${path.includes('?') ? '&' : '?'}upload=${name}`;
  for (const pause of AGAIN_MS) {
    try {
      return await ask<T>('POST', use);
    } catch (error) {
      // The file is there, and what is done with it can be asked for again.
      if (!(error as ServerError).away || signal?.aborted) throw error;
      await new Promise((done) => setTimeout(done, pause));
    }
  }
  return ask<T>('POST', use);
}

/** What an answer says is wrong, where it may be in any shape. */
function errorIn(status: number, text: string): ServerError {
  try {
    const { error } = JSON.parse(text) as { error: { code: string; message: string } };
    return new ServerError(status, error.code, error.message);
  } catch {
    return new ServerError(status, 'unknown', text.trim() || say('theServerAnsweredStatus', { status }));
  }
}
