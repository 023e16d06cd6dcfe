import { computed, type ComputedRef } from 'vue';

/** Keeps the old list where the new one says the same, so that columns that did not change are not drawn again. */
export function stable<T>(get: () => T, key: (value: T) => string): ComputedRef<T> {
  let last: T | undefined;
  let lastKey = '';
  return computed(() => {
    const next = get();
    const k = key(next);
    if (last === undefined || k !== lastKey) {
      last = next;
      lastKey = k;
    }
    return last;
  });
}
