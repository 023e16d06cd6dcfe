import { computed, shallowRef, triggerRef } from 'vue';
import type { Unit } from '@core/surface/desk/desk';
import { useNotices } from '@/ui/notices';
import { say } from './texts';

/** What is heard of a device, and how it is answered. */
export interface Line {
  send(bytes: readonly number[]): void;
  close(): void;
}
interface Asked {
  hear(unit: string, bytes: readonly number[]): void;
  /** A device has come, or has come back. */
  come(unit: string): void;
  gone(unit: string): void;
}

type Midi = Extract<Unit['connection'], { type: 'midi' }>;
const isOpen = (port: MIDIPort) => port.state === undefined || port.state === 'connected';
/** The n-th of the ports of a name: two devices of one make have the same. */
const find = <T extends MIDIPort>(ports: readonly T[], name: string, nth: number): T | undefined =>
  ports.filter((p) => (p.name ?? '') === name && isOpen(p))[nth];

/** Web MIDI: ports that come and go, and the units of the desk that speak by them. */
export function useMidiPorts(asked: Asked) {
  const notices = useNotices();
  const access = shallowRef<MIDIAccess | null>(null);
  const offered = typeof navigator !== 'undefined' && 'requestMIDIAccess' in navigator;
  const ports = computed(() => ({
    inputs: [...(access.value?.inputs.values() ?? [])].filter(isOpen),
    outputs: [...(access.value?.outputs.values() ?? [])].filter(isOpen),
  }));
  const lines = new Map<string, Line & { readonly input: MIDIInput }>();
  /** Ids of units whose device is there. */
  const there = shallowRef<ReadonlySet<string>>(new Set());
  let units: readonly Unit[] = [];

  function open(unit: string, input: MIDIInput, output: MIDIOutput | null) {
    lines.set(unit, {
      input,
      send(bytes) {
        try {
          output?.send([...bytes]);
        } catch {
          // A port may go away between two messages: that it has gone is told by itself.
        }
      },
      close() {
        input.onmidimessage = null;
        void input.close();
        void output?.close();
      },
    });
    // Assigning the handler opens the port (Web MIDI API, W3C, 6.1); opening it by hand tells when that fails.
    input.onmidimessage = (e) => asked.hear(unit, [...(e.data ?? [])]);
    void Promise.all([input.open(), output?.open()]).catch(() =>
      notices.refused(say('portCouldNotOpen', { name: input.name ?? say('midiPort') })),
    );
    there.value = new Set(lines.keys());
    asked.come(unit);
  }
  function shut(unit: string) {
    const line = lines.get(unit);
    if (!line) return;
    lines.delete(unit);
    line.close();
    letGo.get(unit)?.();
    letGo.delete(unit);
    there.value = new Set(lines.keys());
    asked.gone(unit);
  }
  /** Units whose ports are there, and held by another window of this browser. */
  const elsewhere = shallowRef<ReadonlySet<string>>(new Set());
  const waiting = new Map<string, { readonly port: string; readonly stop: AbortController }>();
  const letGo = new Map<string, () => void>();
  function unwait(unit: string) {
    waiting.get(unit)?.stop.abort();
    waiting.delete(unit);
    elsewhere.value = new Set([...waiting.keys()]);
  }
  /**
   * Has a device be heard by one window alone: in two, a turn would count twice (Web Locks API, W3C). Where the browser has no locks, it is
   * opened at once.
   * @param steal whether another window has to let it go
   */
  function hold(unit: string, input: MIDIInput, output: MIDIOutput | null, steal = false) {
    const { locks } = navigator;
    if (!locks) return open(unit, input, output);
    unwait(unit);
    const stop = new AbortController();
    waiting.set(unit, { port: input.id, stop });
    void locks
      .request(`zonula midi ${input.id}`, steal ? { steal } : { signal: stop.signal }, async () => {
        if (stop.signal.aborted) return;
        waiting.delete(unit);
        elsewhere.value = new Set([...waiting.keys()]);
        const held = new Promise<void>((done) => letGo.set(unit, done));
        open(unit, input, output);
        await held;
      })
      // Given up, or taken by another window.
      .catch(() => {
        if (lines.get(unit)?.input !== input || stop.signal.aborted) return;
        shut(unit);
        match();
      });
    // It is told only where it is not had at once.
    setTimeout(() => (elsewhere.value = new Set([...waiting.keys()])), 200);
  }
  function portsOf(u: Unit) {
    if (u.connection.type !== 'midi') return null;
    const { inputs, outputs } = ports.value;
    const { input, output, nth } = u.connection as Midi;
    const from = find(inputs, input, nth);
    return from ? { from, to: output === null ? null : (find(outputs, output, nth) ?? null) } : null;
  }
  /** Connects the units whose ports are there, and lets go of those whose are not. */
  function match() {
    const wanted = new Map(
      units.flatMap((u) => {
        const found = portsOf(u);
        return found ? [[u.id, found] as const] : [];
      }),
    );
    for (const [unit, line] of [...lines]) if (wanted.get(unit)?.from !== line.input) shut(unit);
    for (const [unit, w] of [...waiting]) if (wanted.get(unit)?.from.id !== w.port) unwait(unit);
    for (const [unit, { from, to }] of wanted)
      if (!lines.has(unit) && !waiting.has(unit)) hold(unit, from, to);
  }
  /** Takes a device from another window of this browser. */
  function takeOver(unit: string) {
    const of = units.find((u) => u.id === unit);
    const found = of && portsOf(of);
    if (found && !lines.has(unit)) hold(unit, found.from, found.to, true);
  }

  function take(found: MIDIAccess) {
    access.value = found;
    found.onstatechange = () => {
      triggerRef(access);
      match();
    };
    match();
  }
  /** Asks the browser for its MIDI ports. */
  async function look() {
    try {
      take(await navigator.requestMIDIAccess({ sysex: true }));
    } catch {
      notices.refused(say('browserGaveNoAccessMidi'));
    }
  }
  /** Says which units there are; where some speak by MIDI and the browser has allowed it before, its ports are looked at by themselves. */
  async function setUnits(next: readonly Unit[]) {
    units = next;
    match();
    if (access.value || !offered || !next.some((u) => u.connection.type === 'midi')) return;
    const allowed = await navigator.permissions
      ?.query({ name: 'midi', sysex: true } as unknown as PermissionDescriptor)
      .catch(() => null);
    if (allowed?.state === 'granted' && !access.value) await look();
  }
  /** Listens to every device that belongs to no unit yet. @returns how to stop */
  function overhear(hear: (port: MIDIInput, bytes: readonly number[]) => void): () => void {
    const owned = new Set([...lines.values()].map((l) => l.input));
    const free = ports.value.inputs.filter((p) => !owned.has(p));
    for (const port of free) {
      port.onmidimessage = (e) => hear(port, [...(e.data ?? [])]);
      void port.open().catch(() => {});
    }
    return () => {
      const taken = new Set([...lines.values()].map((l) => l.input));
      for (const port of free) if (!taken.has(port)) port.onmidimessage = null;
    };
  }
  return {
    access,
    offered,
    overhear,
    ports,
    there,
    elsewhere,
    takeOver,
    look,
    setUnits,
    send: (unit: string, bytes: readonly number[]) => lines.get(unit)?.send(bytes),
    closeAll: () => [...lines.keys()].forEach(shut),
  };
}
