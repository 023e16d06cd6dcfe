import { defineStore } from 'pinia';
import { shallowRef } from 'vue';

/** The dialog that is open, by the name under which its feature lists it, and what it was opened with. */
export const useDialogs = defineStore('dialogs', () => {
  const open = shallowRef<{
    readonly name: string;
    readonly props: Readonly<Record<string, unknown>>;
  } | null>(null);
  const show = (name: string, props: Readonly<Record<string, unknown>> = {}) =>
    (open.value = { name, props });
  const close = () => (open.value = null);
  return { open, show, close };
});
