import type { Command } from '@core/edits/commands';

/** How long a knob or a key has to rest before its move is kept, in milliseconds. */
const SETTLE_MS = 600;

type Live = (drag: string, commands: readonly Command[] | null, soon: boolean) => void;
type Land = (drag: string, label: string, commands: readonly Command[]) => void;

/** Moves that come in single steps: shown as they come, kept as one edit when they have rested. */
export function useSettling(live: Live, land: Land) {
  const settling = new Map<
    string,
    { label: string; commands: readonly Command[]; timer: ReturnType<typeof setTimeout> }
  >();
  /**
   * Shows a move that comes in single steps, and keeps it as one edit when it has rested for a moment.
   * @param soon whether the next picture shows it early enough
   */
  function settle(drag: string, label: string, commands: readonly Command[], soon = false) {
    const before = settling.get(drag);
    if (before) clearTimeout(before.timer);
    live(drag, commands, soon);
    // Several may move at once, as knobs under both hands: each is kept when it has rested itself.
    settling.set(drag, { label, commands, timer: setTimeout(() => keep(drag), SETTLE_MS) });
  }
  function keep(drag: string) {
    const { label, commands, timer } = settling.get(drag)!;
    clearTimeout(timer);
    settling.delete(drag);
    land(drag, label, commands);
  }
  /** Keeps what was resting. */
  function settled() {
    for (const drag of [...settling.keys()]) if (settling.has(drag)) keep(drag);
  }
  /** Takes back what was resting. */
  function unsettle() {
    for (const [drag, { timer }] of [...settling]) {
      clearTimeout(timer);
      settling.delete(drag);
      live(drag, null, false);
    }
  }
  /** Whether something rests. */
  const waits = () => settling.size > 0;
  return { settle, settled, unsettle, waits };
}
