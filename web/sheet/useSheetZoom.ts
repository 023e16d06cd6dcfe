import { useEventListener } from '@vueuse/core';
import { ref, type Ref } from 'vue';
import { usePick } from '@/session/pick';
import { useSheetView } from './sheetView';
import type { SheetColumns } from './useSheetColumns';

/**
 * The pointer over the Sheet: what zooming goes to, and two fingers that pinch.
 * @param drop takes back what a hand has begun
 * @returns the strip under it, where columns are too narrow to say their names
 */
export function useSheetZoom(
  body: Ref<HTMLElement | null>,
  columns: SheetColumns,
  stripAt: (e: PointerEvent) => string | null,
  drop: () => void,
): Ref<string | null> {
  const pick = usePick();
  const hovered = ref<string | null>(null);
  const pointer = ref<{ readonly clientX: number } | null>(null);
  function hover(e: PointerEvent) {
    pointer.value = e;
    if (columns.step.value !== 'near') hovered.value = stripAt(e);
  }
  function leave() {
    hovered.value = pointer.value = null;
  }
  /** The middle of the column that has the keyboard. */
  function focused() {
    const strip = pick.focus?.strip;
    const left = body.value?.getBoundingClientRect().left;
    if (!strip || left === undefined || !pick.reachable.includes(strip)) return null;
    return { clientX: left + columns.columnX(strip) + columns.pixelsOf(strip) / 2 };
  }
  useSheetView().attach({
    zoomBy: (factor) => columns.zoomBy(factor, pointer.value ?? focused() ?? undefined),
    whole: () => columns.whole.value,
  });

  const fingers = new Map<number, PointerEvent>();
  const spread = () => {
    const [a, b] = [...fingers.values()] as [PointerEvent, PointerEvent];
    return {
      apart: Math.hypot(a.clientX - b.clientX, a.clientY - b.clientY),
      clientX: (a.clientX + b.clientX) / 2,
    };
  };
  useEventListener(body, 'pointermove', hover);
  useEventListener(body, 'pointerleave', leave);
  const capture = { capture: true };
  useEventListener(
    body,
    'pointerdown',
    (e) => {
      if (e.pointerType !== 'touch') return;
      fingers.set(e.pointerId, e);
      if (fingers.size < 2) return;
      // The second finger is no press on a cell, and what the first one began is taken back.
      e.stopPropagation();
      drop();
    },
    capture,
  );
  useEventListener(
    body,
    'pointermove',
    (e) => {
      if (!fingers.has(e.pointerId)) return;
      if (fingers.size !== 2) return void fingers.set(e.pointerId, e);
      const before = spread();
      fingers.set(e.pointerId, e);
      const after = spread();
      e.stopPropagation();
      if (before.apart > 0) columns.zoomBy(after.apart / before.apart, after);
    },
    capture,
  );
  useEventListener(body, ['pointerup', 'pointercancel'], (e) => void fingers.delete(e.pointerId), capture);
  return hovered;
}
