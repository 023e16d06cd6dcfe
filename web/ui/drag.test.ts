import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { effectScope, type EffectScope } from 'vue';
import { useDrag } from './drag';

let page: EventTarget;
let scope: EffectScope;
beforeEach(() => {
  page = new EventTarget();
  vi.stubGlobal('window', page);
  scope = effectScope();
});
afterEach(() => {
  scope.stop();
  vi.unstubAllGlobals();
});

const captured: number[] = [];
const pointer = (pointerId: number, clientX = 0, button = 0) =>
  ({
    pointerId,
    clientX,
    clientY: 0,
    button,
    currentTarget: { setPointerCapture: (id: number) => captured.push(id) },
  }) as unknown as PointerEvent;

function hand(take = true) {
  const seen: string[] = [];
  const drag = scope.run(() =>
    useDrag<string>({
      begin: (e) => (take ? `at ${e.clientX}` : null),
      move: (e, { note, moved }) => seen.push(`${note} to ${e.clientX} ${moved}`),
      end: ({ moved }) => seen.push(`end ${moved}`),
      cancel: () => seen.push('cancelled'),
    }),
  )!;
  const send = (name: string, e: PointerEvent) => drag.on[name]!(e);
  return { seen, drag, send };
}

describe('a drag', () => {
  it('is captured, followed from its press to its end, and told whether it has moved', () => {
    const { seen, send } = hand();
    send('pointerdown', pointer(1, 5));
    send('pointermove', pointer(1, 5));
    send('pointerup', pointer(1, 5));
    expect(seen).toEqual(['end false']);
    send('pointerdown', pointer(1, 5));
    send('pointermove', pointer(1, 9));
    send('pointerup', pointer(1, 9));
    expect(seen.slice(1)).toEqual(['at 5 to 9 true', 'end true']);
    expect(captured.at(-1)).toBe(1);
  });
  it('passes a second finger, another button, and moves without a press over', () => {
    const { seen, send } = hand();
    send('pointerdown', pointer(1, 0, 2));
    send('pointermove', pointer(1, 4));
    send('pointerdown', pointer(1));
    send('pointerdown', pointer(2));
    send('pointermove', pointer(2, 7));
    send('pointerup', pointer(2, 7));
    expect(seen).toEqual([]);
    send('pointerup', pointer(1));
    expect(seen).toEqual(['end false']);
  });
  it('is cancelled when the system takes it, or the window is left by a hand that never let go', () => {
    const { seen, drag, send } = hand();
    send('pointerdown', pointer(1));
    page.dispatchEvent(new Event('blur'));
    expect(seen).toEqual(['cancelled']);
    expect(drag.held.value).toBeNull();
    send('pointermove', pointer(1, 4));
    send('pointerup', pointer(1, 4));
    expect(seen).toEqual(['cancelled']);
    send('pointerdown', pointer(1));
    send('pointercancel', pointer(1));
    expect(seen).toEqual(['cancelled', 'cancelled']);
  });
  it('is none where nothing was taken hold of', () => {
    const { seen, send } = hand(false);
    send('pointerdown', pointer(1));
    send('pointermove', pointer(1, 4));
    send('pointerup', pointer(1, 4));
    expect(seen).toEqual([]);
  });
});
