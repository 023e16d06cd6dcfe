// One window of the soak: the page's own stores and its sync, without the page. It edits at random until it is told to stop, or is
// killed. What it would keep in the browser's storage it keeps in a file, written at once, as the browser does.
import { appendFileSync, existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { createPinia, setActivePinia } from 'pinia';
import type { Command } from '../../core/edits/commands';
import { newInsert, newSend, newStrip, newVca } from '../../core/session/defaults';
import type { Session } from '../../core/session/types';

export interface WindowTask {
  readonly base: string;
  readonly session: string;
  /** The file in place of the browser's storage. */
  readonly storage: string;
  /** A file to which a line is written for each edit that was made, and for each that the server acknowledged. */
  readonly log: string;
  readonly seed: number;
  /** Milliseconds between two edits; 0 makes none. */
  readonly pace: number;
  /** Milliseconds by which the clock goes ahead: a tab that was closed long ago is known as closed. */
  readonly ahead: number;
}
export interface WindowEnd {
  readonly revision: number;
  readonly unsent: number;
  readonly document: Session;
  /** Edits that it was told are not kept. */
  readonly aside: readonly string[];
  readonly problem: string | null;
}

const task = JSON.parse(process.argv[2]!) as WindowTask;

// — what a browser gives —
const kept = new Map<string, string>(
  existsSync(task.storage)
    ? (JSON.parse(readFileSync(task.storage, 'utf8') || '[]') as [string, string][])
    : [],
);
const keep = () => {
  // Whole or not at all, as a browser's own storage is.
  writeFileSync(`${task.storage}.part`, JSON.stringify([...kept]));
  renameSync(`${task.storage}.part`, task.storage);
};
const seen = new Set<string>();
const storage = {
  getItem: (key: string) => kept.get(key) ?? null,
  setItem(key: string, value: string) {
    kept.set(key, value);
    keep();
    // An edit counts as made from when the browser has it: a tab that is killed before has shown nothing of it yet.
    if (key.startsWith('zonula.pending.'))
      for (const { kind, changeId } of JSON.parse(value) as { kind: string; changeId: string }[])
        if (kind === 'edit' && !seen.has(changeId)) {
          seen.add(changeId);
          line('made', changeId);
        }
  },
  removeItem(key: string) {
    if (kept.delete(key)) keep();
  },
  key: (n: number) => [...kept.keys()][n] ?? null,
  get length() {
    return kept.size;
  },
};
const own = globalThis.fetch;
const clock = Date.now;
Date.now = () => clock() + task.ahead;
const line = (what: string, changeId: string) => appendFileSync(task.log, `${what} ${changeId}\n`);
Object.assign(globalThis, {
  window: new EventTarget(),
  localStorage: storage,
  location: new URL(task.base),
  async fetch(path: string, init?: RequestInit) {
    const answer = await own(new URL(path, task.base), init);
    if (init?.method === 'POST' && path.endsWith('/commits') && answer.ok)
      line('kept', (JSON.parse(init.body as string) as { changeId: string }).changeId);
    return answer;
  },
});

/** Numbers that look random and are the same for the same seed (mulberry32). */
function random(seed: number): () => number {
  let a = seed;
  return () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}
const roll = random(task.seed);
const pick = <T>(list: readonly T[]): T => list[Math.floor(roll() * list.length)]!;
let made = 0;
const fresh = (kind: string) => `${kind}-${task.seed.toString(36)}-${made++}`;
const NAMES = ['Lead', 'Zwölf', '低音', 'Fiddle 🎻', 'é́', 'a\u200db'];

/** Some edit of a session. */
function someEdit(session: Session): readonly Command[] {
  const strip = pick(session.strips);
  const level = Math.round(roll() * 600) / -10 || 0;
  switch (Math.floor(roll() * 9)) {
    case 0:
      return [{ type: 'strip.set', id: strip.id, patch: { name: `${pick(NAMES)} ${made++}` } }];
    case 1:
      return [{ type: 'strip.set', id: strip.id, patch: { mute: !strip.mute } }];
    case 2:
      if (session.strips.length > 60) break;
      return [
        {
          type: 'strip.add',
          at: 0,
          strip: newStrip({
            id: fresh('s'),
            kind: 'source',
            name: pick(NAMES),
            out: { to: session.strips.at(-1)!.id, on: true },
          }),
        },
      ];
    case 3:
      if (strip.kind !== 'source' || session.strips.length < 8) break;
      return [
        ...session.vcas
          .filter((v) => v.members.includes(strip.id))
          .map((v): Command => ({
            type: 'vca.members',
            id: v.id,
            members: v.members.filter((m) => m !== strip.id),
          })),
        { type: 'strip.remove', id: strip.id },
      ];
    case 4:
      if (strip.inserts.length > 10) break;
      return [
        { type: 'insert.add', strip: strip.id, at: 0, insert: newInsert({ id: fresh('i'), type: 'gain' }) },
      ];
    case 5:
      if (strip.kind !== 'source' || strip.sends.length > 10) break;
      return [
        {
          type: 'send.add',
          strip: strip.id,
          at: 0,
          send: newSend({ id: fresh('x'), to: session.strips.at(-1)!.id, levelDb: level }),
        },
      ];
    case 6:
      if (session.vcas.length > 20) break;
      return [{ type: 'vca.add', at: 0, vca: newVca({ id: fresh('v'), name: 'V', members: [strip.id] }) }];
    case 7: {
      const times = Array.from(
        { length: 200 },
        (_, n) => [n / 10, Math.round(roll() * 600) / -10 || 0] as const,
      );
      return [{ type: 'strip.set', id: strip.id, patch: { lanes: { fader: times } } }];
    }
  }
  return [{ type: 'strip.set', id: strip.id, patch: { faderDb: level } }];
}

const rest = (ms: number) => new Promise((done) => setTimeout(done, ms));

async function main() {
  const { useSession } = await import('../../web/session/session');
  setActivePinia(createPinia());
  const session = useSession();
  let stopping = false;
  process.on('message', (m) => {
    if (m === 'stop') stopping = true;
  });
  // Whoever started it has gone.
  process.on('disconnect', () => process.exit(1));
  for (;;) {
    try {
      await session.open(task.session);
      break;
    } catch {
      if (stopping) break;
      await rest(200);
    }
  }
  let drag = 0;
  while (!stopping && task.pace > 0) {
    const document = session.document!;
    const what = roll();
    if (what < 0.12) session.undo();
    else if (what < 0.18) session.redo();
    else if (what < 0.3) {
      const id = pick(document.strips).id;
      const name = `drag ${drag++}`;
      const at = (n: number): Command[] => [{ type: 'strip.set', id, patch: { faderDb: -n } }];
      for (let n = 1; n < 8; n++) {
        session.live(name, at(n));
        await rest(5);
      }
      session.land(name, 'level', at(9));
    } else session.commit('some edit', someEdit(document));
    await rest(task.pace * (0.5 + roll()));
  }
  // All that waits is sent, however long the server was away.
  for (let n = 0; n < 600 && session.unsent > 0; n++) await rest(100);
  // What others did last is told.
  await rest(task.pace > 0 ? 1500 : 300);
  const end: WindowEnd = {
    revision: session.ledger?.revision ?? -1,
    unsent: session.unsent,
    document: session.document!,
    aside: session.aside.map((a) => a.change.changeId),
    problem: session.document ? null : 'it could not be opened',
  };
  process.send!(end, () => process.exit(0));
}
await main();
