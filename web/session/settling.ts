import type { Command } from '@core/session/commands/types';

/** How long a knob or a key has to rest before its move is kept, in milliseconds. */
const SETTLE_MS = 600;

type Live = (gesture: string, commands: readonly Command[] | null) => void;
type Land = (gesture: string, label: string, commands: readonly Command[]) => void;

/** Moves that come in single steps: shown as they come, kept as one edit when they have rested. */
export function useSettling(live: Live, land: Land) {
  const settling = new Map<
    string,
    { label: string; commands: readonly Command[]; timer: ReturnType<typeof setTimeout> }
  >();
  /** Shows a move that comes in single steps, and keeps it as one edit when it has rested for a moment. */
  function settle(gesture: string, label: string, commands: readonly Command[]) {
    const before = settling.get(gesture);
    if (before) clearTimeout(before.timer);
    else settled();
    live(gesture, commands);
    settling.set(gesture, { label, commands, timer: setTimeout(settled, SETTLE_MS) });
  }
  /** Keeps what was resting. */
  function settled() {
    for (const [gesture, { label, commands, timer }] of [...settling]) {
      clearTimeout(timer);
      settling.delete(gesture);
      land(gesture, label, commands);
    }
  }
  /** Whether something rests. */
  const waits = () => settling.size > 0;
  return { settle, settled, waits };
}
