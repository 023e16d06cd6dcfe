import type { Place } from '../profile/fields';

/** Measures of the stand-ins, in millimetres. */
export const STRIP = 25;
export const HEIGHT = 150;
export const EDGE = 5;
const KEY = { width: 18.4, height: 11.4 } as const;
const PITCH = { x: 19, y: 12 } as const;

/** A profile as it is written down: fields that are left out have their defaults. */
export type Written = Readonly<Record<string, unknown>> & { readonly id: string; readonly kind: string };

export const place = (x: number, y: number, width: number, height: number): Place => ({
  x,
  y,
  width,
  height,
});
const note = (channel: number, n: number) => ({ type: 'note', channel, note: n });

/** Keys of the whole unit in rows, a free place where the role is null; a number is a user key. */
export function keyBlock(
  rows: readonly (readonly (string | number | null)[])[],
  left: number,
  top: number,
  channel: number,
  known: Readonly<Record<string, readonly [channel: number, note: number]>> = {},
): readonly Written[] {
  let n = 0;
  return rows.flatMap((row, y) =>
    row.flatMap((what, x): readonly Written[] => {
      if (what === null) return [];
      const role = typeof what === 'number' ? 'user' : what;
      const id = typeof what === 'number' ? `user${what}` : what;
      const address = known[id] ? note(...known[id]) : note(channel, n++);
      return [
        {
          id,
          kind: 'key',
          position: null,
          role,
          ...(typeof what === 'number' ? { user: what } : {}),
          in: address,
          light: { address, dim: 24 },
          place: place(left + x * PITCH.x, top + y * PITCH.y, KEY.width, KEY.height),
        },
      ];
    }),
  );
}
export const blockWidth = (columns: number): number => columns * PITCH.x;
