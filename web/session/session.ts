import { useEventListener } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, onScopeDispose, ref, shallowRef } from 'vue';
import { sessionAt, standingAt } from '@core/automation/at';
import { setLanes } from '@core/automation/edit';
import type { Spans } from '@core/metering/spans';
import type { PreampState } from '@core/devices/preamp';
import { apply } from '@core/edits/apply';
import type { Command } from '@core/edits/commands';
import type { Change } from '@core/edits/history';
import { keepable } from '@core/base/text';
import type { Operation } from '@core/operations/gather';
import type { Session } from '@core/session/types';
import { withLinks } from '@core/operations/together';
import { audibleStrips } from '@core/routing/solo';
import { stripMap } from '@core/session/lookup';
import { ask } from './sync/api';
import { openSession } from './sync/early';
import { isKept } from './sync/isKept';
import { usePlaying } from './sync/playing';
import { v4 as uuid } from 'uuid';
import {
  edit,
  integrate,
  openLedger,
  rebase,
  stacksOf,
  type Dropped,
  type Ledger,
  type NewChange,
} from './sync/ledger';
import type { AutomationWriter, WrittenLane } from './writer';
import { withDrags, type Drags } from '@core/edits/drags';
import { usePictures } from './pictures';
import { useSettling } from './settling';
import { useSteps } from './steps';
import { PendingEdits, type AsideEdit } from './sync/pendingEdits';
import { SessionSync, type SessionState, type SyncState } from './sync/sessionSync';
import { useNotices } from '@/ui/notices';
import { say } from './texts';

export interface StemInfo {
  readonly channels: number;
  readonly frames: number;
  /** Peaks of each hundredth of a second, 0..255, as base64. */
  readonly overview: string;
  /** Where it sounds, above -60 dBFS; null where that is not known yet. */
  readonly spans?: Spans | null;
  /** When it begins, in seconds since midnight; null where its file did not tell. */
  readonly begins?: number | null;
}

interface Opened extends SessionState {
  readonly stems: Record<string, StemInfo>;
}

/** Letters that an edit may be called by. */
const MOST_LABEL = 300;

/** The open session: its document, what is on its way to the server, drags under way, undo and redo. */
export const useSession = defineStore('session', () => {
  const notices = useNotices();
  const id = ref<string | null>(null);
  const ledger = shallowRef<Ledger | null>(null);
  const stems = shallowRef<Readonly<Record<string, StemInfo>>>({});
  const syncState = ref<SyncState>('kept');
  const gone = ref(false);
  /** Drags of this window by name, and of others by window and name: as they are, and as they were last shown. */
  const moving = shallowRef<Drags>(new Map());
  const lives = shallowRef<Drags>(moving.value);
  const pictures = usePictures(() => (lives.value = moving.value));
  /** What is known of the preamplifier's inputs. */
  const preamps = shallowRef<ReadonlyMap<number, PreampState>>(new Map());
  /** An answer may come after what was told since: the later word holds. */
  function learnPreamp(state: PreampState) {
    const known = preamps.value.get(state.input);
    if (!known || known.order < state.order) preamps.value = new Map(preamps.value).set(state.input, state);
  }
  /** Lanes that a hand is writing now. */
  const writing = shallowRef<readonly WrittenLane[]>([]);
  /** Seconds of the song at which automated controls are shown, some thirty times a second while it rolls. */
  const playhead = ref(0);
  /** The same, about once a second while it rolls: for what takes longer to compute. */
  const slowPlayhead = ref(0);
  let writer: AutomationWriter | null = null;
  const writeWith = (by: AutomationWriter) => (writer = by);
  let sync: SessionSync | null = null;
  const playing = usePlaying(() => sync);
  const edits = new PendingEdits(uuid());
  onScopeDispose(() => edits.close());
  /** Edits that could not be kept, with their reasons. */
  const aside = shallowRef<readonly AsideEdit[]>([]);
  /** Whether the browser keeps what waits for the server. */
  let keeping = true;
  /** Alt moves the one that is held alone: its links do not follow. */
  let alone = false;
  for (const type of ['pointerdown', 'pointermove', 'keydown', 'keyup'] as const)
    useEventListener(window, type, (e) => (alone = e.altKey), { capture: true });
  const linked = (commands: readonly Command[]) =>
    alone || !document.value?.links.length
      ? commands
      : withLinks(sessionAt(document.value, playhead.value), commands);

  const document = computed(() => ledger.value?.document ?? null);
  /** The document with the lanes that are being written. */
  const written = computed<Session | null>(() => {
    const session = document.value;
    if (!session || writing.value.length === 0) return session;
    return apply(session, setLanes(session, writing.value)).session;
  });
  /** The document with every drag under way, as of the last picture. */
  const shown = computed(() => withDrags(written.value, lives.value));
  /** The same at this moment, which no picture waits for: what is heard, and what a device's next message adds to. */
  const moved = computed(() => withDrags(written.value, moving.value));
  const present = () => moved.value && sessionAt(moved.value, playhead.value);
  /** The same with every control where its lane has it now: what is shown. */
  const now = computed(() => shown.value && sessionAt(shown.value, playhead.value));
  /** The same without any lanes: what questions are asked of. */
  const standing = computed(() => shown.value && standingAt(shown.value, slowPlayhead.value));
  /** What a hand takes hold of: the document with every control where its lane has it. */
  const base = () => written.value && sessionAt(written.value, playhead.value);
  /** What the ear alone is given on top: never kept, never sent, never written. */
  const listening = shallowRef<((session: Session) => readonly Command[]) | null>(null);
  /** What is heard. */
  const heard = computed<Session | null>(() => {
    const session = moved.value;
    if (!session || !listening.value) return session;
    return apply(session, listening.value(session)).session;
  });
  const audible = computed(() => (shown.value ? audibleStrips(shown.value) : new Set<string>()));
  const stacks = computed(() => (ledger.value ? stacksOf(ledger.value) : { undo: [], redo: [] }));
  const undoLabel = computed(() => stacks.value.undo.at(-1)?.label ?? null);
  const redoLabel = computed(() => stacks.value.redo.at(-1)?.label ?? null);
  const unsent = computed(() => ledger.value?.pending.length ?? 0);
  const strip = (stripId: string) => (now.value ? stripMap(now.value).get(stripId) : undefined);

  function setLedger(next: Ledger) {
    ledger.value = next;
    if (!id.value) return;
    const kept = edits.keep(id.value, next.pending);
    if (!kept && keeping) notices.refused(say('browserHasNoRoomKeep'));
    keeping = kept;
  }

  /** Puts an edit that cannot be kept where it can be saved as a file, and says why. */
  function putAside(change: AsideEdit['change'], reason: string) {
    const edit: AsideEdit = { session: id.value!, change, reason };
    if (!edits.putAside(edit)) notices.refused(say('browserHasNoRoomKeep2', { change: change.label }));
    aside.value = [...aside.value.filter((a) => a.change.changeId !== change.changeId), edit];
  }
  function discardAside() {
    if (id.value) edits.discard(id.value);
    aside.value = [];
  }
  /** Says which edits no longer fit; what they did can be saved. */
  function tellDropped(dropped: readonly Dropped[], how = say('wasNotKept')) {
    for (const { change, reason } of dropped) {
      notices.refused(`“${change.label}” ${how}: ${reason.replace(/\.$/, '')}.`);
      if (change.kind === 'edit') putAside(change, reason);
    }
  }

  function take(changes: readonly Change[]) {
    for (const change of changes) {
      if (!ledger.value) return;
      const result = integrate(ledger.value, change);
      if (result.gap) {
        void sync?.catchUp();
        return;
      }
      setLedger(result.ledger);
      tellDropped(result.dropped);
      void learnStems();
    }
  }

  /** Facts of stems that another window has brought in. */
  async function learnStems() {
    const missing = (document.value?.strips ?? [])
      .map((s) => s.stem)
      .filter((s): s is string => s !== null && !(s in stems.value));
    for (const stem of new Set(missing)) {
      const info = await ask<StemInfo>('GET', `/stems/${stem}`).catch(() => null);
      if (info) stems.value = { ...stems.value, [stem]: info };
    }
  }
  const addStem = (address: string, info: StemInfo) => {
    stems.value = { ...stems.value, [address]: info };
  };

  const ledgerOf = ({ document, revision, history, undo, redo }: SessionState) =>
    openLedger(document, revision, history, { undo, redo });

  async function open(session: string): Promise<void> {
    close();
    const opened = await openSession<Opened>(session);
    id.value = opened.id;
    gone.value = false;
    stems.value = opened.stems;
    // Edits that a closed tab could not send any more.
    const { left, taken } = edits.takeOver(session);
    const found = await Promise.all(left.map((c) => isKept(session, opened, c)));
    aside.value = edits.aside(session);
    const { ledger: next, dropped } = rebase(
      ledgerOf(opened),
      left.filter((_, i) => !found[i]),
    );
    setLedger(next);
    if (keeping) taken();
    tellDropped(dropped, say('couldNotSentBeforeNo'));
    sync = new SessionSync(
      session,
      {
        next: () =>
          ledger.value?.pending[0]
            ? { change: ledger.value.pending[0], revision: ledger.value.revision }
            : null,
        kept: (change) => take([change]),
        missed: take,
        reloaded(state) {
          const { ledger: next, dropped } = rebase(ledgerOf(state), ledger.value!.pending);
          setLedger(next);
          tellDropped(dropped);
          void learnStems();
        },
        refused(change, error) {
          const current = ledger.value!;
          const kept = { ...current, pending: [], document: current.kept };
          const { ledger: rest, dropped } = rebase(
            kept,
            current.pending.filter((p) => p.changeId !== change.changeId),
          );
          setLedger(rest);
          tellDropped([{ change, reason: error.message }, ...dropped]);
        },
        state: (state) => (syncState.value = state),
        live: (from, drag, commands) => move(`${from} ${drag}`, commands),
        gone(from) {
          moving.value = new Map([...moving.value].filter(([key]) => !key.startsWith(`${from} `)));
          pictures.now();
          playing.left(from);
        },
        deleted: () => (gone.value = true),
        preamp: learnPreamp,
        ...playing.events,
      },
      () => ledger.value?.revision ?? 0,
    );
    sync.flush();
  }

  function close() {
    settled();
    sync?.close();
    sync = null;
    playing.clear();
    ledger.value = null;
    moving.value = new Map();
    pictures.now();
    writing.value = [];
    listening.value = null;
    playhead.value = slowPlayhead.value = 0;
    id.value = null;
  }

  /**
   * Does an edit: one act, one undo step.
   * @returns whether it was done; a refusal is shown with its reason
   */
  function commit(label: string, commands: readonly Command[]): boolean {
    if (!ledger.value || commands.length === 0) return false;
    if (waits()) settled();
    return keep('once', '', label, commands);
  }
  function keep(phase: 'land' | 'once', drag: string, label: string, commands: readonly Command[]) {
    const all = linked(commands);
    const rest = writer?.take(phase, drag, label, all) ?? all;
    if (rest.length === 0) return true;
    return push({ changeId: uuid(), kind: 'edit', label, commands: rest });
  }

  function push(change: NewChange): boolean {
    try {
      setLedger(edit(ledger.value!, { ...change, label: keepable(change.label, MOST_LABEL) }));
    } catch (error) {
      notices.refused(error);
      return false;
    }
    sync?.flush();
    return true;
  }

  /** Does an operation of core; a refusal is shown with its reason. @returns what it made */
  function perform(make: (session: Session) => Operation): string | null {
    try {
      const operation = make(document.value!);
      return commit(operation.label, operation.commands) ? operation.made : null;
    } catch (error) {
      notices.refused(error);
      return null;
    }
  }

  /** Does what a function of the document asks for; a refusal is shown. */
  function change(label: string, make: (session: Session) => readonly Command[]): boolean {
    try {
      return commit(label, make(base()!));
    } catch (error) {
      notices.refused(error);
      return false;
    }
  }

  /** Moves a drag, or ends it where nothing is given. What ends is shown at once, with the edit that comes of it. */
  function move(key: string, commands: readonly Command[] | null, picture = pictures.soon) {
    const next = new Map(moving.value);
    // Of two hands on one thing the one that moved last is heard: it stands last.
    next.delete(key);
    if (commands) next.set(key, commands);
    moving.value = next;
    if (commands) picture();
    else pictures.now();
  }

  /**
   * Has a drag be heard where it stands, shown with the next picture, and told to other windows; null ends it.
   * @param picture when it is shown here
   */
  function live(drag: string, edit: readonly Command[] | null, picture = pictures.soon) {
    const all = edit && linked(edit);
    if (!all) writer?.drop(drag);
    const rest = all && (writer?.take('live', drag, '', all) ?? all);
    const commands = rest?.length ? rest : null;
    if (!commands && !moving.value.has(drag)) return;
    move(drag, commands, picture);
    sync?.live(drag, commands);
  }

  /** Ends a drag and keeps what it stands at. */
  function land(drag: string, label: string, commands: readonly Command[]) {
    if (ledger.value && commands.length && waits()) settled();
    letGo(drag, label, commands);
  }
  function letGo(drag: string, label: string, commands: readonly Command[]) {
    if (ledger.value && commands.length) keep('land', drag, label, commands);
    live(drag, null);
  }

  // Steps by key are shown at once: the next of them adds to what is shown.
  const { settle, settled, unsettle, waits } = useSettling(
    (drag, commands, soon) => live(drag, commands, soon ? pictures.soon : pictures.now),
    letGo,
  );
  const { undo, redo } = useSteps({ id, ledger, stacks, settled, push, refused: notices.refused });

  return {
    id,
    ledger,
    document,
    shown,
    playing,
    now,
    present,
    standing,
    listening,
    heard,
    base,
    writing,
    playhead,
    slowPlayhead,
    writeWith,
    audible,
    stems,
    preamps,
    learnPreamp,
    addStem,
    syncState,
    unsent,
    aside,
    discardAside,
    gone,
    undoLabel,
    redoLabel,
    strip,
    open,
    close,
    commit,
    change,
    perform,
    live,
    land,
    settle,
    unsettle,
    undo,
    redo,
  };
});
