import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';

/** Milliseconds for which a dialog that was asked for may take the keyboard without being there. */
const PATIENCE = 3000;

/** The dialog that is open, by the name under which its feature lists it, and what it was opened with. */
export const useDialogs = defineStore('dialogs', () => {
  const open = shallowRef<{
    readonly name: string;
    readonly props: Readonly<Record<string, unknown>>;
  } | null>(null);
  /** Whether a dialog was asked for and has not the keyboard yet: what is typed meanwhile is meant for it, and for nothing behind it. */
  const opening = ref(false);
  let patience: ReturnType<typeof setTimeout> | undefined;
  function show(name: string, props: Readonly<Record<string, unknown>> = {}) {
    open.value = { name, props };
    opening.value = true;
    clearTimeout(patience);
    patience = setTimeout(opened, PATIENCE);
  }
  /** It is drawn, and has taken the keyboard. */
  function opened() {
    clearTimeout(patience);
    opening.value = false;
  }
  function close() {
    open.value = null;
    opened();
  }
  return { open, opening, show, opened, close };
});
