import { useEventListener } from '@vueuse/core';
import { onBeforeUnmount } from 'vue';

/** Keeps the screen on while this is shown, where the browser offers it (Screen Wake Lock API, W3C). */
export function useAwake(): void {
  let lock: WakeLockSentinel | null = null;
  let closed = false;
  async function hold() {
    if (document.visibilityState !== 'visible' || !('wakeLock' in navigator)) return;
    try {
      const got = await navigator.wakeLock.request('screen');
      if (closed) return void got.release();
      lock = got;
    } catch {
      // A device that saves its battery gives none: the screen then goes as it is set.
    }
  }
  void hold();
  // A lock is lost whenever the window is hidden.
  useEventListener(document, 'visibilitychange', () => void hold());
  onBeforeUnmount(() => {
    closed = true;
    void lock?.release();
  });
}
