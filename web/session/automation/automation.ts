import type { ControlValue } from '@core/session/controls';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { sessionAt } from '@core/automation/at';
import {
  controlName,
  findControl,
  refKey,
  stripControls,
  vcaControls,
  type ControlRef,
  type PlacedControl,
} from '@core/automation/control';
import { setLanes, setMode, withPoint } from '@core/automation/edit';
import { partEdit } from '@core/automation/hand';
import { isArmed } from '@core/session/mode';
import { afterPass, duringPass, moved, trimmed, type Pass } from '@core/automation/write';
import type { Command } from '@core/edits/commands';
import { nameOf } from '@core/session/lookup';
import type { Lane } from '@core/session/types';
import type { Id, Seconds } from '@core/base/units';
import { useNotices } from '@/ui/notices';
import { useSession } from '../session';
import type { AutomationWriter, WrittenLane } from '../writer';
import { useTransport } from '@/audio/transport';
import { say } from '../texts';

/** A pass under way over one control. */
interface Writing {
  readonly ref: ControlRef;
  readonly pass: Pass;
  /** The hand that is on it; null where it is latched, or was let go. */
  readonly drag: string | null;
}

/** By how much the song may be ahead of the clock and still be playing on. */
const LEAP_SECONDS = 0.25;

/** What a lane is called in the history: `level of Bass DI`. */
const named = (session: Parameters<typeof nameOf>[0], ref: ControlRef) =>
  say('controlnameOfName', {
    controlName: controlName(session, ref).toLowerCase(),
    name: nameOf(session, ref.owner),
  });

/** Writing automation: what a hand does to an armed strip while it plays becomes its lane. */
export const useAutomation = defineStore('automation', () => {
  const session = useSession();
  const transport = useTransport();
  const notices = useNotices();
  const passes = shallowRef<ReadonlyMap<string, Writing>>(new Map());
  /** At rest: lanes that a drag would leave. */
  const resting = shallowRef<readonly (WrittenLane & { readonly drag: string })[]>([]);
  /** Controls that are being written, by strip or VCA. */
  const writing = computed(() => {
    const owners = new Map<Id, ControlRef[]>();
    for (const { ref } of passes.value.values())
      owners.set(ref.owner, [...(owners.get(ref.owner) ?? []), ref]);
    return owners;
  });
  /** The lane that is looked at in its view, and its point. */
  const selected = ref<{ readonly key: string; readonly point: number } | null>(null);
  /** A control whose lane was asked for from somewhere else: shown even where it has none yet. */
  const asked = shallowRef<ControlRef | null>(null);
  let told = '';
  /** While passes are kept, what is kept is no move of a hand: a hand that rests on one of them has written already. */
  let ending = false;

  function show() {
    const lanes: WrittenLane[] = [...resting.value];
    for (const { ref, pass } of passes.value.values()) {
      const placed = session.document && findControl(session.document, ref);
      if (placed) lanes.push({ ref, lane: duringPass(placed.control, placed.lane, pass) });
    }
    session.writing = lanes;
  }
  function setPasses(next: ReadonlyMap<string, Writing>) {
    passes.value = next;
    show();
  }

  /** Ends passes and keeps what they have written: one step. @param modes modes that strips go to with it */
  function keep(ended: readonly Writing[], end: Seconds, modes: readonly Command[] = []) {
    const doc = session.document;
    const lanes = ended.flatMap(({ ref, pass }) => {
      const placed = doc && findControl(doc, ref);
      if (!placed) return [];
      return [{ ref, lane: afterPass(placed.control, placed.lane, placed.value, { ...pass, end }) }];
    });
    const over = () => {
      const rest = new Map(passes.value);
      for (const w of ended) rest.delete(refKey(w.ref));
      setPasses(rest);
    };
    if (!doc || lanes.length === 0) return over();
    const one = lanes.length === 1 ? named(doc, lanes[0]!.ref) : say('controls', { count: lanes.length });
    // The lane is kept before the picture of the pass goes: nothing jumps in between.
    ending = true;
    session.commit(say('writeOne', { one }), [...setLanes(doc, lanes), ...modes]);
    ending = false;
    over();
  }

  /** Takes moves of a hand into passes. */
  function write(
    moves: readonly { readonly placed: PlacedControl; readonly value: ControlValue }[],
    drag: string,
  ) {
    const time = transport.now();
    const next = new Map(passes.value);
    for (const { placed, value } of moves) {
      const key = refKey(placed.ref);
      const going = next.get(key);
      const pass: Pass = going
        ? moved(going.pass, time, value)
        : { mode: placed.mode as Pass['mode'], moves: [[time, value]], end: null };
      next.set(key, { ref: placed.ref, pass, drag });
    }
    setPasses(next);
  }
  /** A hand lets go: what is touched or trimmed is kept; what latches goes on, and so does a switch. */
  function release(drag: string) {
    const mine = [...passes.value.values()].filter((w) => w.drag === drag);
    const ends = (w: Writing) => {
      const control = findControl(session.document!, w.ref)?.control;
      return (w.pass.mode === 'touch' || w.pass.mode === 'trim') && !control?.stepped;
    };
    const goOn = mine.filter((w) => !ends(w));
    if (goOn.length) {
      const next = new Map(passes.value);
      for (const w of goOn) next.set(refKey(w.ref), { ...w, drag: null });
      passes.value = next;
    }
    const done = mine.filter(ends);
    if (done.length) keep(done, transport.now());
  }

  const writer: AutomationWriter = {
    take(phase, drag, label, commands) {
      const doc = session.document;
      if (!doc || !commands.some(touches)) return commands;
      const rolling = transport.rolling;
      // At rest a drag is measured from what is written, not from what it shows itself.
      const now = rolling ? session.base()! : sessionAt(doc, session.playhead);
      const armed = [...doc.strips, ...doc.vcas].some((x) => isArmed(x.automation));
      if (now === doc && !armed) return commands;
      const { moves, rest } = partEdit(
        doc,
        now,
        commands,
        (p) => isArmed(p.mode) && (rolling || p.lane !== null),
      );
      if (ending) return rest;
      if (rolling) {
        const hand = phase === 'once' ? 'once' : drag;
        if (moves.length) write(moves, hand);
        if (phase !== 'live') release(hand);
      } else if (moves.length) atRest(phase, drag, label, moves);
      warn(rest);
      return rest;
    },
    drop(drag) {
      if (resting.value.some((r) => r.drag === drag)) {
        resting.value = resting.value.filter((r) => r.drag !== drag);
        show();
      }
      const mine = [...passes.value.values()].filter((w) => w.drag === drag);
      if (mine.length === 0) return;
      const next = new Map(passes.value);
      for (const w of mine) next.delete(refKey(w.ref));
      setPasses(next);
    },
  };
  const touches = (c: Command) =>
    c.type === 'strip.set' || c.type === 'send.set' || c.type === 'insert.set' || c.type === 'vca.set';

  /** While nothing rolls, a move sets a point at the playhead; a trim moves the whole lane. */
  function atRest(
    phase: 'live' | 'land' | 'once',
    drag: string,
    label: string,
    moves: readonly { readonly placed: PlacedControl; readonly value: ControlValue }[],
  ) {
    const time = transport.position;
    const lanes = moves.map(({ placed: { ref, control, lane, mode }, value }) => ({
      ref,
      lane: mode === 'trim' ? trimmed(control, lane!, time, value) : withPoint(lane!, time, value),
      drag,
    }));
    resting.value = [...resting.value.filter((r) => r.drag !== drag), ...(phase === 'live' ? lanes : [])];
    if (phase !== 'live') {
      const ref = lanes[0]!.ref;
      const what = lanes.length === 1 ? named(session.document!, ref) : label;
      session.commit(
        moves.some((m) => m.placed.mode === 'trim')
          ? say('trimWhat', { what })
          : say('pointOfWhat', { what }),
        setLanes(session.document!, lanes),
      );
    }
    show();
  }

  /** Says once why a control that follows its lane does not go where it was put. */
  function warn(rest: readonly Command[]) {
    const doc = session.document!;
    const { moves } = partEdit(doc, doc, rest, (p) => p.mode === 'read' && p.lane !== null);
    const first = moves[0];
    const key = first ? refKey(first.ref) : '';
    if (first && key !== told)
      notices.refused(
        say('controlnameNameFollowsAutomationSet', {
          controlName: controlName(doc, first.ref),
          name: nameOf(doc, first.ref.owner),
        }),
      );
    if (first) told = key;
  }
  session.writeWith(writer);

  /** Begins passes over all that strips in write mode have. */
  function begin() {
    const doc = session.document;
    const now = session.base();
    if (!doc || !now || !transport.rolling) return;
    const time = transport.now();
    const next = new Map(passes.value);
    const owners = [
      ...now.strips.filter((s) => s.automation === 'write').map(stripControls),
      ...now.vcas.filter((v) => v.automation === 'write').map(vcaControls),
    ];
    for (const { ref, value, lane, control } of owners.flat()) {
      if (next.has(refKey(ref)) || !(lane || control.id === 'fader')) continue;
      next.set(refKey(ref), {
        ref,
        pass: { mode: 'write', moves: [[time, value]], end: null },
        drag: null,
      });
    }
    if (next.size !== passes.value.size) setPasses(next);
  }
  /** Strips that have written go to touch with what they wrote: the next time round nothing is overwritten. */
  function finish(end: Seconds) {
    const ended = [...passes.value.values()];
    if (ended.length === 0) return;
    const wrote = [...new Set(ended.filter((w) => w.pass.mode === 'write').map((w) => w.ref.owner))].filter(
      (id) =>
        [...session.document!.strips, ...session.document!.vcas].find((x) => x.id === id)?.automation ===
        'write',
    );
    keep(ended, end, setMode(session.document!, wrote, 'touch'));
  }

  let last = 0;
  let seen = 0;
  watch(
    () => [transport.rolling, transport.position] as const,
    ([rolls, at], [rolled]) => {
      // Pictures may come late, in a window that is hidden or on a machine that is busy: that is no leap.
      const elapsed = (performance.now() - seen) / 1000;
      seen = performance.now();
      if (rolls && !rolled) {
        last = at;
        begin();
      } else if (!rolls && rolled) finish(Math.max(last, transport.now()));
      else if (rolls && (at < last - 0.001 || at > last + elapsed + LEAP_SECONDS)) {
        // Round a loop, or somewhere else: what was written ends there. A hand that holds on writes on with its next move.
        finish(last);
        begin();
      }
      last = at;
    },
    { flush: 'sync' },
  );
  // A strip that is set to write while it plays begins there; one that is taken out of writing has written.
  watch(
    () =>
      session.document &&
      [...session.document.strips, ...session.document.vcas].map((x) => x.automation).join(),
    () => {
      if (!transport.rolling || !session.document) return;
      const gone = [...passes.value.values()].filter((w) => {
        const mode = findControl(session.document!, w.ref)?.mode;
        return !mode || !isArmed(mode);
      });
      if (gone.length) keep(gone, transport.now());
      begin();
    },
  );
  watch(
    () => session.id,
    () => {
      passes.value = new Map();
      resting.value = [];
      told = '';
      asked.value = null;
      selected.value = null;
    },
  );

  /** What is said of a control beside it; null where it has no lane and none is being written. */
  function markOf(ref: ControlRef) {
    const placed = session.shown && findControl(session.shown, ref);
    if (!placed) return null;
    const writes = passes.value.has(refKey(ref));
    const has = placed.lane !== null;
    if (!has && !writes) return null;
    const does = writes
      ? say('isBeingWritten')
      : placed.mode === 'off'
        ? say('hasLaneAutomationOff')
        : isArmed(placed.mode)
          ? say('automatedArmedMode', { mode: placed.mode })
          : say('isAutomated');
    return { mode: placed.mode, has, writes, text: `${placed.control.name} ${does}.` };
  }
  /** A lane as it is being written, where it is. */
  const inHand = (r: ControlRef): Lane | null => {
    const going = passes.value.get(refKey(r));
    const placed = going && session.document && findControl(session.document, r);
    if (!going || !placed) return null;
    return afterPass(placed.control, placed.lane, placed.value, { ...going.pass, end: session.playhead });
  };

  return { passes, writing, markOf, inHand, selected, asked };
});
