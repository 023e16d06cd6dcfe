import { useEventListener } from '@vueuse/core';
import { shallowRef, type ShallowRef } from 'vue';

/** A hand on something: where it was pressed, where it is, and what the thing has noted of it. */
export interface Held<T> {
  readonly start: PointerEvent;
  readonly note: T;
  /** Whether it has moved since it was pressed. */
  readonly moved: boolean;
}
export interface Hand<T> {
  /** The main button is pressed. @returns what is to be noted; null where nothing is taken hold of */
  begin(e: PointerEvent): T | null;
  move(e: PointerEvent, held: Held<T>): void;
  /** It is let go. */
  end(held: Held<T>): void;
  /** It is taken away: by the system, or because the window is left. Without this, it is as if it were let go. */
  cancel?(held: Held<T>): void;
}

/** One pointer's drag, captured from its press to its end; a second finger is passed over. Give `on` to `v-on`. */
export function useDrag<T>(hand: Hand<T>): {
  readonly held: ShallowRef<Held<T> | null>;
  readonly on: Readonly<Record<string, (e: PointerEvent) => void>>;
  /** Ends it as if it were taken away. */
  readonly drop: () => void;
} {
  const held = shallowRef<Held<T> | null>(null);
  const mine = (e: PointerEvent) => held.value?.start.pointerId === e.pointerId;
  function finish(how: (h: Held<T>) => void) {
    const last = held.value;
    held.value = null;
    if (last) how(last);
  }
  const drop = () => finish((h) => (hand.cancel ?? hand.end).call(hand, h));
  useEventListener(window, 'blur', drop);
  return {
    held,
    drop,
    on: {
      pointerdown(e) {
        if (e.button !== 0 || held.value) return;
        const note = hand.begin(e);
        if (note === null) return;
        (e.currentTarget as Element).setPointerCapture(e.pointerId);
        held.value = { start: e, note, moved: false };
      },
      pointermove(e) {
        if (!mine(e)) return;
        const { start, note, moved } = held.value!;
        if (!moved && e.clientX === start.clientX && e.clientY === start.clientY) return;
        if (!moved) held.value = { start, note, moved: true };
        hand.move(e, held.value!);
      },
      pointerup: (e) => mine(e) && finish((h) => hand.end(h)),
      pointercancel: (e) => mine(e) && drop(),
    },
  };
}
