/** An error that the server gave, in its one shape. */
export class ServerError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    readonly body: { readonly error: { readonly missed?: unknown } } | null = null,
  ) {
    super(message);
  }
  /** Whether the same request may succeed later. */
  get away(): boolean {
    return this.status === 0 || this.status === 503 || this.status === 502 || this.status === 504;
  }
}

export async function failure(response: Response): Promise<ServerError> {
  const body = (await response.json().catch(() => null)) as {
    error: { code: string; message: string; missed?: unknown };
  } | null;
  return new ServerError(
    response.status,
    body?.error.code ?? 'unknown',
    body?.error.message ?? `The server answered ${response.status}.`,
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
    throw new ServerError(
      0,
      'away',
      'The server does not answer. Is Zonula still running? Start it with `npm start`.',
    );
  }
  if (!response.ok) throw await failure(response);
  return (response.status === 204 ? undefined : await response.json()) as T;
}

/** Sends a file with its progress. @throws ServerError */
export function upload<T>(
  path: string,
  file: Blob,
  progress: (share: number) => void,
  signal?: AbortSignal,
): Promise<T> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open('POST', `/api${path}`);
    request.setRequestHeader('Content-Type', 'application/octet-stream');
    request.upload.onprogress = (e) => progress(e.lengthComputable && e.total > 0 ? e.loaded / e.total : 0);
    request.onload = () => {
      const body = JSON.parse(request.responseText || 'null') as {
        error?: { code: string; message: string };
      };
      if (request.status < 300) resolve(body as T);
      else
        reject(
          new ServerError(
            request.status,
            body?.error?.code ?? 'unknown',
            body?.error?.message ?? `The server answered ${request.status}.`,
          ),
        );
    };
    request.onerror = () => reject(new ServerError(0, 'away', 'The server does not answer.'));
    request.onabort = () => reject(new ServerError(0, 'stopped', 'Stopped.'));
    signal?.addEventListener('abort', () => request.abort());
    request.send(file);
  });
}
