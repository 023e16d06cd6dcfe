/** A key of a part of the page: `sheet.bypass` is B while the Sheet has the keyboard. */
export interface ScopedKey {
  readonly id: string;
  readonly title: string;
  /** Keys as `keyName` writes them; the first is shown. */
  readonly keys: readonly string[];
}
/** Keys of one part of the page, which come before those of the whole page while it has the keyboard. */
export interface KeyScope {
  /** Its name; ids of its keys begin with it and a dot. */
  readonly scope: string;
  readonly title: string;
  readonly keys: readonly ScopedKey[];
}

/** Writes a scope down: `{ bypass: ['Bypass an insert', 'B'] }` with any number of keys after the title. */
export const keyScope = (
  scope: string,
  title: string,
  keys: Readonly<Record<string, readonly [title: string, ...keys: string[]]>>,
): KeyScope => ({
  scope,
  title,
  keys: Object.entries(keys).map(([id, [text, ...names]]) => ({
    id: `${scope}.${id}`,
    title: text,
    keys: names,
  })),
});
