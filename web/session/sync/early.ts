import { ask } from './api';

/** A session that is asked for while the page's own code is still coming: begun by the address, taken when it is opened. */
let early: { readonly id: string; readonly answer: Promise<unknown> } | null = null;

const openPath = (id: string) => `/sessions/${id}/open`;

/** Begins to open the session that the address names, where it names one. @param path of the page's address */
export function openEarly(path: string): void {
  const id = /^\/session\/([^/]+)/.exec(path)?.[1];
  if (!id) return;
  const answer = ask('POST', openPath(id));
  // Who takes it hears of it; until then it is nobody's.
  answer.catch(() => {});
  early = { id, answer };
}

/** Opens a session. @returns its document, history and stems */
export function openSession<T>(id: string): Promise<T> {
  const begun = early;
  early = null;
  return begun?.id === id ? (begun.answer as Promise<T>) : ask<T>('POST', openPath(id));
}
