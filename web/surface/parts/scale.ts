import type { Control, SurfaceProfile } from '@core/surface/profile/profile';
import type { Place } from '@core/surface/profile/fields';

/** Millimetres that a control takes that no one has given a place. */
const ROOM: Readonly<Record<Control['kind'], readonly [width: number, height: number]>> = {
  colour: [20, 3],
  icon: [7, 7],
  display: [20, 7],
  encoder: [20, 15],
  key: [20, 11],
  fader: [15, 90],
  meter: [3, 90],
};
/** From the top of a strip down. */
const ORDER: readonly Control['kind'][] = ['colour', 'display', 'icon', 'encoder', 'key', 'fader', 'meter'];
const GAP = 2;
const COLUMN = 24;

/** Where each control of a device lies, and how large the device is, in millimetres: as its profile says, or where there is room. */
export interface Geometry {
  readonly width: number;
  readonly height: number;
  readonly places: ReadonlyMap<string, Place>;
}
const known = new WeakMap<SurfaceProfile, Geometry>();

export function geometryOf(profile: SurfaceProfile): Geometry {
  let found = known.get(profile);
  if (!found) known.set(profile, (found = layOut(profile)));
  return found;
}

function layOut(profile: SurfaceProfile): Geometry {
  const places = new Map<string, Place>();
  for (const c of profile.controls) if (c.place) places.set(c.id, c.place);
  const least = Math.max(0, ...[...places.values()].map((p) => p.x + p.width));
  const loose = profile.controls.filter((c) => !c.place);
  const bottom = new Map<string, number>();
  const columns = Math.max(
    1,
    ...loose.map((c) => ('position' in c && c.position !== null ? c.position + 1 : 0)),
  );
  // Whatever has no place stands right of what has one: strips in columns, keys of the whole unit in a block beside them.
  const left = least > 0 ? least + GAP : GAP;
  let n = 0;
  for (const c of [...loose].sort((a, b) => ORDER.indexOf(a.kind) - ORDER.indexOf(b.kind))) {
    const [width, height] = ROOM[c.kind];
    if ('position' in c && c.position !== null) {
      const key = c.kind === 'meter' ? `meter ${c.position}` : String(c.position);
      const y =
        bottom.get(key) ??
        (c.kind === 'meter' ? Math.max(0, (bottom.get(String(c.position)) ?? GAP) - height - GAP) : GAP);
      places.set(c.id, { x: left + c.position * COLUMN + (c.kind === 'meter' ? 16 : 0), y, width, height });
      bottom.set(key, y + height + GAP);
    } else {
      const wide = c.kind === 'display';
      const x = left + columns * COLUMN + (n % 4) * (width + GAP);
      places.set(c.id, {
        x: wide ? left + columns * COLUMN : x,
        y: GAP + Math.floor(n / 4) * (height + GAP),
        width: wide ? 4 * (width + GAP) : width,
        height,
      });
      n += wide ? 4 : 1;
    }
  }
  const all = [...places.values()];
  const reach = (edge: (p: Place) => number) => Math.max(10, ...all.map(edge)) + GAP;
  return {
    width: profile.size?.width ?? reach((p) => p.x + p.width),
    height: profile.size?.height ?? reach((p) => p.y + p.height),
    places,
  };
}

/** Pixels between two devices. */
const BETWEEN = 12;
/** Pixels of a device beside its face: its name. */
export const HEAD = 26;
const LARGEST = 3;
const SMALLEST = 1.45;

/**
 * How many pixels a millimetre takes, so that devices, one after another in rows, fit: as many as there is room for.
 * @param width of the view, in pixels @param height of the view, in pixels
 */
export function scaleFor(
  units: readonly Pick<Geometry, 'width' | 'height'>[],
  width: number,
  height: number,
): number {
  for (let scale = LARGEST; scale > SMALLEST; scale -= 0.02) {
    let x = 0;
    let row = 0;
    let total = 0;
    let fits = true;
    for (const u of units) {
      const w = u.width * scale;
      if (w > width) fits = false;
      if (x > 0 && x + BETWEEN + w > width) {
        total += row + BETWEEN;
        x = row = 0;
      }
      x += (x > 0 ? BETWEEN : 0) + w;
      row = Math.max(row, u.height * scale + HEAD);
    }
    if (fits && total + row <= height) return scale;
  }
  return SMALLEST;
}
