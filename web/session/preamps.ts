import { defineStore } from 'pinia';
import { watch } from 'vue';
import type { PreampSettings, PreampState } from '@core/devices/preamp';
import { ask, ServerError } from './sync/api';
import { useNotices } from '@/ui/notices';
import { useSession } from './session';

/** Asks the preamplifier for what the document says, whenever it says something else: by hand, by undo, from another window. */
export const usePreamps = defineStore('preamps', () => {
  const session = useSession();
  const notices = useNotices();
  const sent = new Map<number, string>();
  let last: Promise<void> = Promise.resolve();

  /** One after the other, so that the wish that was uttered last is the one that the device keeps. */
  const request = (settings: PreampSettings) => (last = last.then(() => send(settings)));
  async function send(settings: PreampSettings) {
    try {
      const { state } = await ask<{ state: PreampState }>('POST', '/preamps', settings);
      session.learnPreamp(state);
    } catch (error) {
      sent.delete(settings.input);
      // While the server is away the top line says so already.
      if (!(error instanceof ServerError && error.status === 0)) notices.refused(error);
    }
  }
  watch(
    () => session.document?.strips,
    (strips) => {
      for (const s of strips ?? []) {
        if (!s.preamp) continue;
        const text = JSON.stringify(s.preamp);
        if (sent.get(s.preamp.input) === text) continue;
        sent.set(s.preamp.input, text);
        void request(s.preamp);
      }
    },
    { immediate: true },
  );
  /** Asks once more for an input that did not answer. */
  const again = (settings: PreampSettings) => request(settings);
  return { again };
});
