/** A key press as it is written in a shortcut: `Ctrl+Shift+Z`, `M`, `[`, `Space`. */
export function keyName(
  e: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey' | 'altKey' | 'shiftKey'>,
): string {
  const printable = e.key.length === 1 && e.key !== ' ';
  const letter = printable && e.key.toLowerCase() !== e.key.toUpperCase();
  const key = e.key === ' ' ? 'Space' : letter ? e.key.toUpperCase() : e.key;
  // Of signs, the shifted one says already that Shift was held.
  const shift = e.shiftKey && (letter || !printable);
  return [e.ctrlKey || e.metaKey ? 'Ctrl' : '', e.altKey ? 'Alt' : '', shift ? 'Shift' : '', key]
    .filter(Boolean)
    .join('+');
}

const SHOWN: Readonly<Record<string, string>> = {
  '{': 'Shift+[',
  '}': 'Shift+]',
  Delete: 'Del',
  'Alt+ArrowLeft': 'Alt+←',
  'Alt+ArrowRight': 'Alt+→',
  Backspace: '⌫',
};
export const keyShown = (name: string): string => SHOWN[name] ?? name;

/** Whether keys belong to what is being typed into or chosen from. */
export function isTyping(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  return (
    target.isContentEditable ||
    ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName) ||
    target.closest('[role="menu"], [role="listbox"], [role="dialog"], [role="alertdialog"]') !== null
  );
}
