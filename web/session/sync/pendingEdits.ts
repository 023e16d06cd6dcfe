import type { NewChange, PendingChange } from './ledger';
import { say } from '../texts';

/** An edit that could not be kept, and why. */
export interface AsideEdit {
  readonly session: string;
  readonly change: NewChange | { readonly changeId: string; readonly label: string; readonly text: string };
  readonly reason: string;
}

const PENDING = 'zonula.pending.';
const ASIDE = 'zonula.aside.';
const ALIVE = 'zonula.alive.';
const damaged = () => say('browserHadKeptDamaged');
/** Milliseconds between two signs of life of a tab, and after which one is thought to be closed: hidden ones are slow. */
const SIGN_MS = 10_000;
const DEAD_MS = 150_000;

/** What of an edit has to be kept: what takes it back follows, and so does what an undo does. */
const slim = ({ changeId, kind, label, of, commands }: PendingChange): NewChange =>
  kind === 'edit' ? { changeId, kind, label, commands } : { changeId, kind, label, of };

/** What the browser keeps under names that begin so; nothing where it keeps nothing at all. */
function keysOf(prefix: string): readonly string[] {
  try {
    return Array.from({ length: localStorage.length }, (_, i) => localStorage.key(i)!).filter((k) =>
      k.startsWith(prefix),
    );
  } catch {
    return [];
  }
}

/**
 * Edits on their way, kept by the browser until the server has them, so that they outlive the tab. Each tab keeps its own: two
 * with one session do not write over each other's. What a closed tab left is taken over by the next that opens the session; where
 * two tabs send the same edit, the server keeps it once.
 */
export class PendingEdits {
  private readonly timer: ReturnType<typeof setInterval>;
  private readonly sign = () => write(ALIVE + this.tab, String(Date.now()));
  private readonly leave = () => forget(ALIVE + this.tab);

  /** @param tab a name that no other tab has */
  constructor(private readonly tab: string) {
    this.sign();
    this.timer = setInterval(this.sign, SIGN_MS);
    window.addEventListener('pagehide', this.leave);
    window.addEventListener('pageshow', this.sign);
  }

  private readonly keyOf = (session: string) => `${PENDING}${session}.${this.tab}`;

  /** @returns whether the browser could keep them */
  keep(session: string, pending: readonly PendingChange[]): boolean {
    const key = this.keyOf(session);
    if (pending.length) return write(key, JSON.stringify(pending.map(slim)));
    forget(key);
    return true;
  }

  /**
   * What closed tabs left of a session, to be taken over by this one. What cannot be read is put aside; where there is no room
   * for that, it stays where it is, for the next time.
   * @returns the edits, and what lets go of the closed tabs': it is called when this tab keeps them
   */
  takeOver(session: string): { readonly left: readonly NewChange[]; readonly taken: () => void } {
    const left: NewChange[] = [];
    const keys = keysOf(PENDING + session).filter((key) => {
      const tab = key.slice(PENDING.length + session.length + 1);
      return tab === this.tab || !this.isAlive(tab);
    });
    const done: string[] = [];
    for (const key of keys) {
      const text = localStorage.getItem(key)!;
      try {
        const changes = JSON.parse(text) as NewChange[];
        for (const change of changes)
          if (typeof change.changeId !== 'string' || typeof change.label !== 'string')
            throw new Error(say('noEdit'));
        left.push(...changes);
        done.push(key);
      } catch {
        const kept = this.putAside({
          session,
          change: { changeId: `damaged-${key}`, label: say('editsBrowserKept'), text },
          reason: damaged(),
        });
        if (kept) done.push(key);
      }
    }
    for (const sign of keysOf(ALIVE)) if (!this.isAlive(sign.slice(ALIVE.length))) forget(sign);
    return {
      left,
      taken: () => {
        for (const key of done) if (key !== this.keyOf(session)) forget(key);
      },
    };
  }

  private isAlive(tab: string): boolean {
    const sign = tab && localStorage.getItem(ALIVE + tab);
    return !!sign && Date.now() - Number(sign) < DEAD_MS;
  }

  /** @returns whether the browser could keep it */
  putAside(edit: AsideEdit): boolean {
    return write(`${ASIDE}${edit.session}.${edit.change.changeId}`, JSON.stringify(edit));
  }
  aside(session: string): readonly AsideEdit[] {
    return keysOf(`${ASIDE}${session}.`).flatMap((key) => {
      const text = localStorage.getItem(key)!;
      try {
        const edit = JSON.parse(text) as AsideEdit;
        if (typeof edit.change.label === 'string' && typeof edit.reason === 'string') return [edit];
      } catch {
        // Told as what it is, below.
      }
      return [
        {
          session,
          change: { changeId: key, label: say('editWasPutAside'), text },
          reason: damaged(),
        },
      ];
    });
  }
  discard(session: string): void {
    for (const key of keysOf(`${ASIDE}${session}.`)) forget(key);
  }

  close(): void {
    clearInterval(this.timer);
    window.removeEventListener('pagehide', this.leave);
    window.removeEventListener('pageshow', this.sign);
    this.leave();
  }
}

function write(key: string, text: string): boolean {
  try {
    localStorage.setItem(key, text);
    return true;
  } catch {
    // Full, or switched off.
    return false;
  }
}
function forget(key: string): void {
  try {
    localStorage.removeItem(key);
  } catch {
    // Switched off: there is nothing to forget.
  }
}
