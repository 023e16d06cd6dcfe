import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { Command } from '@core/edits/commands';
import {
  clashesOf,
  draftsFrom,
  draftsOf,
  onChannel,
  profileFrom,
  redrafted,
  type Decision,
  type Draft,
} from '@core/surface/learn/draft';
import { learn, type Ask, type Learned, type Step } from '@core/surface/learn/learn';
import type { Session } from '@core/session/types';
import type { HeardAt } from '@core/surface/learn/sources';
import { touchedBy } from '@core/surface/learn/touched';
import { plainMessage } from '@core/surface/monitor';
import type { SurfaceProfile } from '@core/surface/profile/profile';
import { MIDI_START, parseMidi, type MidiMessage, type MidiParserState } from '@core/wire/midi';
import { useTransport } from '@/audio/transport';
import { useSession } from '@/session/session';
import { useNotices } from '@/ui/notices';
import { useSettings } from '@/session/settings';
import { say } from './texts';
import { useSurface } from './useSurface';

/** What is asked for, one after the other. */
export const ASKS: readonly Ask[] = ['faders', 'knobs', 'keys'];
/** Milliseconds between two looks at what was heard, and messages that are looked at. */
const LOOK_MS = 100;
const MOST = 12000;

/** The device that is listened to: a unit of the desk, or a port that belongs to none yet; nothing until one speaks. */
interface Device {
  readonly unit: string | null;
  readonly port: string | null;
  /** Which of several ports of that name, from 0. */
  readonly nth: number;
  readonly name: string;
}

/** A controller is learned by moving it, or what was learned is changed. */
export const useLearning = defineStore('learning', () => {
  const surface = useSurface();
  const session = useSession();
  const transport = useTransport();
  const notices = useNotices();
  const settings = useSettings();

  const active = ref(false);
  const device = ref<Device | null>(null);
  const name = ref('');
  const steps = shallowRef<readonly Step[]>([]);
  const decided = shallowRef<Readonly<Record<string, Decision>>>({});
  const order = shallowRef<readonly string[]>([]);
  const learned = shallowRef<Learned>({ found: [], played: 0 });
  /** The profile that is changed; null while one is made. */
  const base = shallowRef<SurfaceProfile | null>(null);
  const based = shallowRef<readonly Draft[]>([]);
  const last = ref('');
  const lastKey = ref<string | null>(null);
  let heard: HeardAt[] = [];
  let parsers = new Map<string, MidiParserState>();
  let timer: ReturnType<typeof setTimeout> | null = null;
  let stop: (() => void) | null = null;
  let spoken: MidiMessage | null = null;

  const ask = computed<Ask | null>(() => steps.value.at(-1)?.ask ?? null);
  const drafts = computed<readonly Draft[]>(() => {
    const known = new Set(based.value.map((d) => d.key));
    const found = draftsFrom(learned.value, steps.value, decided.value).filter((d) => !known.has(d.key));
    const all = [...based.value.map((d) => redrafted(d, decided.value[d.key] ?? {})), ...found];
    const at = new Map(order.value.map((key, i) => [key, i]));
    return [...all].sort((a, b) => (at.get(a.key) ?? 1e6) - (at.get(b.key) ?? 1e6)).map(same);
  });
  /** A draft that is as it was is the same object, so that nothing of it is drawn anew. */
  const before = new Map<string, { readonly text: string; readonly draft: Draft }>();
  function same(draft: Draft): Draft {
    const text = JSON.stringify(draft);
    const known = before.get(draft.key);
    if (known?.text === text) return known.draft;
    before.set(draft.key, { text, draft });
    return draft;
  }
  const clashes = computed(() => clashesOf(drafts.value));
  /** Where each control stands, 0 to 1. */
  const values = computed(() => new Map(learned.value.found.map((f) => [f.key, f.value / 16383])));
  /** Controls of each kind that were found in the step that is asked now. */
  const count = computed(() => {
    const at = steps.value.length - 1;
    const wanted = ask.value === 'keys' ? ['key'] : ['position', 'turn'];
    return learned.value.found.filter((f) => f.step === at && wanted.includes(f.is)).length;
  });

  function look() {
    timer = null;
    learned.value = learn(heard, steps.value);
    if (spoken) last.value = plainMessage(spoken);
    lastKey.value = keyOfLast();
  }
  /** Keeps what a device says. @param from tells one device from another */
  function take(from: Device, bytes: readonly number[]): boolean {
    const own = from.unit ?? `${from.port} ${from.nth}`;
    const { messages, state } = parseMidi(parsers.get(own) ?? MIDI_START, bytes);
    parsers.set(own, state);
    const speaks = messages.filter(
      (m) =>
        m.type === 'controlChange' || m.type === 'noteOn' || m.type === 'noteOff' || m.type === 'pitchBend',
    );
    // A clock alone, or a sensing that somebody is there, is no hand on anything.
    if (!device.value && speaks.length) {
      device.value = from;
      name.value ||= from.name;
    }
    const of = device.value;
    if (!of || of.unit !== from.unit || of.port !== from.port || of.nth !== from.nth) return false;
    const at = performance.now();
    for (const message of speaks) if (heard.length < MOST) heard.push({ at, message });
    spoken = messages.at(-1) ?? spoken;
    timer ??= setTimeout(look, LOOK_MS);
    return true;
  }
  function keyOfLast(): string | null {
    const m = heard.at(-1)?.message;
    if (!m) return null;
    if (m.type === 'controlChange') {
      const key = `control ${m.channel} ${m.controller}`;
      return drafts.value.some((d) => d.key === key) ? key : `control ${m.channel} ${m.controller - 32}`;
    }
    if (m.type === 'noteOn' || m.type === 'noteOff') return `note ${m.channel} ${m.note}`;
    return m.type === 'pitchBend' ? `bend ${m.channel}` : null;
  }

  function begin(of: Device | null, profile: SurfaceProfile | null) {
    cancel();
    active.value = true;
    device.value = of;
    name.value = profile?.name ?? of?.name ?? '';
    base.value = profile;
    based.value = profile ? draftsOf(profile) : [];
    surface.tap = (unit, bytes) => {
      const found = surface.desk.units.find((u) => u.id === unit);
      // While a device is looked for, those that have their profile go on working.
      if (!device.value && found && surface.profile(found.profile)) return false;
      return take({ unit, port: null, nth: 0, name: found?.name ?? unit }, bytes);
    };
    overhear();
    // A browser is asked once for its ports; what is plugged in meanwhile is heard as well.
    if (surface.ports.offered && !surface.ports.access && device.value === null) void surface.ports.look();
  }
  function overhear() {
    stop?.();
    stop = surface.ports.overhear((port, bytes) => {
      const name = port.name ?? '';
      const nth = surface.ports.ports.inputs.filter((p) => (p.name ?? '') === name).indexOf(port);
      take({ unit: null, port: name, nth, name: name || say('midiPort') }, bytes);
    });
  }
  watch(
    () => surface.ports.ports,
    () => active.value && overhear(),
  );
  /** Learns a unit of the desk, or whatever device speaks first. */
  function start(unit: string | null = null) {
    const waiting = surface.desk.units.filter((u) => !surface.profile(u.profile));
    const of =
      surface.desk.units.find((u) => u.id === unit) ?? (waiting.length === 1 ? waiting[0] : undefined);
    // More devices than one may be meant: the one that speaks is.
    const sure = unit !== null || !surface.ports.ports.inputs.length;
    begin(of && sure ? { unit: of.id, port: null, nth: 0, name: of.name } : null, null);
    next();
  }
  /** Changes a profile; what is moved meanwhile is shown, and added where it is new. */
  function edit(profile: SurfaceProfile, unit: string | null = null) {
    begin(unit === null ? null : { unit, port: null, nth: 0, name: surface.unitName(unit) }, profile);
    steps.value = [{ ask: 'any', at: performance.now() }];
  }
  /** Goes on to what is asked for next. */
  function next() {
    const at = ask.value === null ? -1 : ASKS.indexOf(ask.value);
    const to = ASKS[at + 1];
    if (!to) return;
    look();
    steps.value = [...steps.value, { ask: to, at: performance.now() }];
    look();
  }
  /** Forgets what was moved since the last question, which is asked anew. */
  function again() {
    const step = steps.value.at(-1);
    if (!step) return;
    heard = heard.filter((h) => h.at < step.at);
    steps.value = [...steps.value.slice(0, -1), { ...step, at: performance.now() }];
    look();
  }
  const decide = (key: string, decision: Decision) =>
    (decided.value = { ...decided.value, [key]: { ...decided.value[key], ...decision } });
  /** Moves a control one place to the left or the right among those of its kind. */
  function move(key: string, way: 1 | -1) {
    const all = drafts.value;
    const from = all.findIndex((d) => d.key === key);
    const kind = all[from]?.control.kind;
    let to = from + way;
    while (all[to] && all[to]?.control.kind !== kind) to += way;
    if (!all[to]) return;
    const keys = all.map((d) => d.key);
    [keys[from], keys[to]] = [keys[to]!, keys[from]!];
    order.value = keys;
  }
  function channel(n: number) {
    const keep = drafts.value;
    decided.value = {};
    order.value = [];
    heard = [];
    learned.value = { found: [], played: 0 };
    based.value = onChannel(keep, n);
  }

  // — from the other side: what is touched on the page next is what a control is for —
  const pointing = ref<string | null>(null);
  const touched = (commands: readonly Command[] | null) => {
    const key = pointing.value;
    const before = session.document;
    const found = key !== null && commands && before ? touchedBy(before, commands) : null;
    const draft = drafts.value.find((d) => d.key === key);
    if (!key || !found || !draft) return;
    if ('key' in found !== (draft.control.kind === 'key')) return;
    decide(key, found);
    pointing.value = null;
  };
  session.$onAction(({ name: action, args }) => {
    if (pointing.value === null) return;
    const [first, second, third] = args as readonly unknown[];
    if (String(first).startsWith('desk ')) return;
    if (action === 'live') touched(second as readonly Command[] | null);
    else if (action === 'change' && session.document)
      touched((second as (s: Session) => readonly Command[])(session.document));
    else if (action === 'commit') touched(second as readonly Command[]);
    else if (action === 'land' || action === 'settle') touched(third as readonly Command[]);
  }, true);
  transport.$onAction(({ name: action }) => {
    const role = { play: 'play', stop: 'stop', toggleLoop: 'loop', toggle: 'play' }[action as string];
    const draft = drafts.value.find((d) => d.key === pointing.value);
    if (role && draft?.control.kind === 'key') {
      decide(draft.key, { key: { role, action: null } });
      pointing.value = null;
    }
  }, true);

  function cancel() {
    active.value = false;
    device.value = null;
    base.value = null;
    based.value = [];
    steps.value = [];
    decided.value = {};
    order.value = [];
    learned.value = { found: [], played: 0 };
    heard = [];
    parsers = new Map();
    last.value = '';
    spoken = null;
    before.clear();
    name.value = '';
    lastKey.value = null;
    pointing.value = null;
    surface.tap = null;
    stop?.();
    stop = null;
    if (timer) clearTimeout(timer);
    timer = null;
  }

  /** A profile's id that no other has. */
  function freshId(of: string): string {
    const stem = `learned-${of
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')}`.slice(0, 34);
    let id = stem;
    for (let n = 2; surface.profile(id); n++) id = `${stem}-${n}`;
    return id;
  }
  /** Keeps what was learned, and has the device speak by it. @returns whether it could be kept */
  async function finish(): Promise<boolean> {
    look();
    const title = name.value.trim() || device.value?.name || say('learnedController');
    const id = base.value && surface.profile(base.value.id) ? base.value.id : freshId(title);
    try {
      const { validProfile } = await import('@core/surface/profile/validProfile');
      const made = validProfile(
        profileFrom(
          drafts.value,
          { id, name: title, ...(base.value ? { pickup: base.value.pickup } : {}) },
          base.value,
        ),
      );
      await surface.keepProfile(made);
      const of = device.value;
      if (of?.unit) surface.setUnit(of.unit, { profile: id });
      else if (of?.port) {
        settings.portProfiles = { ...settings.portProfiles, [of.port]: id };
        const output = surface.ports.ports.outputs.some((p) => p.name === of.port) ? of.port : null;
        surface.addUnit(made, { type: 'midi', input: of.port, output, nth: of.nth });
      }
      cancel();
      notices.done(say('learned', { name: made.name }));
      return true;
    } catch (error) {
      notices.refused(error);
      return false;
    }
  }

  return {
    active,
    device,
    name,
    base,
    ask,
    steps,
    drafts,
    clashes,
    values,
    count,
    learned,
    last,
    lastKey,
    pointing,
    start,
    edit,
    next,
    again,
    decide,
    move,
    channel,
    cancel,
    finish,
    freshId,
  };
});
