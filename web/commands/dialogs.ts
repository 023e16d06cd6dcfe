import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';

/** Milliseconds for which a dialog that was asked for may take the keyboard without being there. */
const PATIENCE = 3000;

/** Whether letters can be typed there: a switch, a choice or a number takes none. */
const takesLetters = (at: Element | null): at is HTMLInputElement | HTMLTextAreaElement =>
  (at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement) &&
  !at.readOnly &&
  at.selectionStart !== null;

/** The dialog that is open, by the name under which its feature lists it, and what it was opened with. */
export const useDialogs = defineStore('dialogs', () => {
  const open = shallowRef<{
    readonly name: string;
    readonly props: Readonly<Record<string, unknown>>;
  } | null>(null);
  /** Whether a dialog was asked for and has not the keyboard yet: what is typed meanwhile is meant for it, and for nothing behind it. */
  const opening = ref(false);
  let patience: ReturnType<typeof setTimeout> | undefined;
  let typed = '';
  /** What had the keyboard when the dialog was asked for. */
  let before: Element | null = null;
  function show(name: string, props: Readonly<Record<string, unknown>> = {}) {
    open.value = { name, props };
    opening.value = true;
    typed = '';
    before = document.activeElement;
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
  /** Whether a field of the dialog has the keyboard already, though nobody has looked since: a slow picture must not cost a key. */
  function there(): boolean {
    const now = document.activeElement;
    if (!now || now === before || !now.matches('input, textarea, select')) return false;
    return !!now.closest('[role="dialog"], [role="alertdialog"]') && give();
  }
  /** Keeps what is typed while a dialog is on its way, and lets nothing else have it; Escape calls it off. */
  function type(e: KeyboardEvent) {
    if (there()) return opened();
    e.stopPropagation();
    // What the browser itself does by such keys it may do.
    if (e.ctrlKey || e.metaKey || e.altKey || e.isComposing) return;
    e.preventDefault();
    if (e.key === 'Escape') close();
    else if (e.key === 'Backspace') typed = typed.slice(0, -1);
    else if (e.key.length === 1) typed += e.key;
  }
  /**
   * Gives what was typed meanwhile to the field that has the keyboard now, as if it were typed there.
   * @returns false where something was typed and no field has the keyboard yet
   */
  function give(): boolean {
    const field = document.activeElement;
    if (!typed) return true;
    if (!takesLetters(field)) return false;
    const from = field.selectionStart!;
    field.setRangeText(typed, from, field.selectionEnd ?? from, 'end');
    field.dispatchEvent(new InputEvent('input', { bubbles: true, inputType: 'insertText', data: typed }));
    typed = '';
    return true;
  }
  return { open, opening, show, opened, close, type, give };
});
