import { createPinia, setActivePinia } from 'pinia';
import { vi } from 'vitest';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import { newSession, newStrip } from '@core/session/defaults';
import { undoStacks, type Change } from '@core/edits/history';
import type { Session } from '@core/session/types';
import { useNotices } from '@/ui/notices';
import { useSession } from '@/session/session';

/** What a test does to the page's window and storage, where there is no browser. */
export class Page extends EventTarget {
  private readonly kept = new Map<string, string>();
  readonly storage = {
    getItem: (key: string) => this.kept.get(key) ?? null,
    setItem: (key: string, value: string) => void this.kept.set(key, value),
    removeItem: (key: string) => void this.kept.delete(key),
    key: (n: number) => [...this.kept.keys()][n] ?? null,
    length: 0,
  };
  constructor() {
    super();
    Object.defineProperty(this.storage, 'length', { get: () => this.kept.size });
  }
  /** What is kept under names that begin so. */
  keptUnder(prefix: string): string[] {
    return [...this.kept].filter(([k]) => k.startsWith(prefix)).map(([, v]) => v);
  }
  /** A key that is held while the next edits are made. */
  hold(altKey: boolean) {
    this.dispatchEvent(Object.assign(new Event('keydown'), { altKey }));
  }
}

const base = newSession('Small');
/** Two sources and a submix that they run into. */
export const small: Session = {
  ...base,
  strips: [
    newStrip({ id: 'a', kind: 'source', name: 'A', faderDb: -6, out: { to: 'bus', on: true } }),
    newStrip({ id: 'b', kind: 'source', name: 'B', faderDb: -12, out: { to: 'bus', on: true } }),
    newStrip({ id: 'bus', kind: 'submix', name: 'Bus', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
};

/** Sets up a page with its stores, before a session is open. */
export function newPage(): Page {
  const page = new Page();
  vi.stubGlobal('window', page);
  vi.stubGlobal('localStorage', page.storage);
  setActivePinia(createPinia());
  return page;
}
/** The answer of a server that has a session. */
export const answer = (document: Session, history: readonly Change[] = []) => ({
  id: 'one',
  revision: history.length,
  document,
  history,
  ...undoStacks(history),
  stems: {},
});
/** Edits that another window made, as the server tells them. */
export function elsewhere(document: Session, revision: number, commands: readonly Command[]): Change {
  return {
    revision,
    kind: 'edit',
    label: 'from elsewhere',
    changeId: `elsewhere ${revision}`,
    of: null,
    commands,
    inverse: apply(document, commands).inverse,
  };
}
export const strip = (id: string) => useSession().document!.strips.find((s) => s.id === id)!;
export const said = () => useNotices().list.map((n) => n.text);
export const fader = (id: string, faderDb: number | null): Command => ({
  type: 'strip.set',
  id,
  patch: { faderDb },
});
