import { ref, shallowRef } from 'vue';
import { MONITOR_START, namesOfInput, namesOfOutput, type MonitorState } from '@core/surface/monitor';
import type { SurfaceProfile } from '@core/surface/profile/profile';

/** One piece of MIDI as it went by. */
export interface MidiLine {
  readonly key: number;
  readonly way: 'in' | 'out';
  readonly unit: string;
  readonly bytes: readonly number[];
}
/** The same, with the names of what it says. */
export interface NamedLine extends MidiLine {
  readonly names: string;
  readonly hex: string;
}

/** Lines that are kept, and bytes of each that are shown. */
const LINES = 60;
const SHOWN = 24;
const hex = (bytes: readonly number[]) =>
  bytes
    .slice(0, SHOWN)
    .map((b) => b.toString(16).padStart(2, '0'))
    .join(' ') + (bytes.length > SHOWN ? ' …' : '');

/** What goes between the desk and its devices, while somebody looks. */
export function useMonitor() {
  const watching = ref(0);
  const lines = shallowRef<readonly MidiLine[]>([]);
  let serial = 0;
  function note(way: MidiLine['way'], unit: string, bytes: readonly number[]) {
    if (!watching.value || bytes.length === 0) return;
    lines.value = [...lines.value, { key: serial++, way, unit, bytes }].slice(-LINES);
  }
  /** The lines with names, the latest first. A piece that goes on where the one before ended is read on from there. */
  function named(profileOf: (unit: string) => SurfaceProfile | undefined): readonly NamedLine[] {
    const states = new Map<string, MonitorState>();
    return lines.value
      .map((line): NamedLine => {
        const profile = profileOf(line.unit);
        const key = `${line.way} ${line.unit}`;
        const read = line.way === 'in' ? namesOfInput : namesOfOutput;
        const found = profile && read(profile, states.get(key) ?? MONITOR_START, line.bytes);
        if (found) states.set(key, found.state);
        const names = found?.names ?? [];
        const more = names.length > 4 ? ` and ${names.length - 4} more` : '';
        return { ...line, hex: hex(line.bytes), names: names.slice(0, 4).join(', ') + more };
      })
      .reverse();
  }
  return {
    lines,
    note,
    named,
    watch: () => void watching.value++,
    unwatch: () => void watching.value--,
    clear: () => (lines.value = []),
  };
}
