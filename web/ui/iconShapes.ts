/*
 * Shapes as path data, all filled, in a field of 24 by 24: what a strip's icon is put together from where the icon library has
 * none. Holes run the other way round, so that they stay open under the non-zero rule.
 */

const at = (n: number) => String(Math.round(n * 100) / 100);

/** An ellipse; a hole where `hole`. */
export function oval(cx: number, cy: number, rx: number, ry = rx, hole = false): string {
  const sweep = hole ? 0 : 1;
  const half = (to: number) => `A${at(rx)} ${at(ry)} 0 1 ${sweep} ${at(to)} ${at(cy)}`;
  return `M${at(cx - rx)} ${at(cy)}${half(cx + rx)}${half(cx - rx)}z`;
}
/** An ellipse's edge, `w` wide. */
export const ring = (cx: number, cy: number, rx: number, ry = rx, w = 2): string =>
  oval(cx, cy, rx, ry) + oval(cx, cy, rx - w, ry - w, true);
/** A box; a hole where `hole`. */
export const box = (x: number, y: number, w: number, h: number, hole = false): string =>
  hole
    ? `M${at(x)} ${at(y)}v${at(h)}h${at(w)}v${at(-h)}z`
    : `M${at(x)} ${at(y)}h${at(w)}v${at(h)}h${at(-w)}z`;
/** A polygon, given clockwise. */
export const shape = (...points: readonly (readonly [number, number])[]): string =>
  `M${points.map(([x, y]) => `${at(x)} ${at(y)}`).join('L')}z`;
/** A straight line, `w` wide. */
export function line(x1: number, y1: number, x2: number, y2: number, w = 2): string {
  const long = Math.hypot(x2 - x1, y2 - y1);
  const [dx, dy] = [(((y2 - y1) / long) * w) / 2, (((x2 - x1) / long) * w) / 2];
  return shape([x1 + dx, y1 - dy], [x2 + dx, y2 - dy], [x2 - dx, y2 + dy], [x1 - dx, y1 + dy]);
}
/** A part of a circle's edge, from one angle to another in degrees (0 is right, 90 is down), `w` wide. */
export function arc(cx: number, cy: number, r: number, from: number, to: number, w = 2): string {
  const p = (radius: number, degrees: number) => {
    const a = (degrees * Math.PI) / 180;
    return `${at(cx + radius * Math.cos(a))} ${at(cy + radius * Math.sin(a))}`;
  };
  const large = to - from > 180 ? 1 : 0;
  const [outer, inner] = [r + w / 2, r - w / 2];
  return `M${p(outer, from)}A${at(outer)} ${at(outer)} 0 ${large} 1 ${p(outer, to)}L${p(inner, to)}A${at(inner)} ${at(inner)} 0 ${large} 0 ${p(inner, from)}z`;
}
