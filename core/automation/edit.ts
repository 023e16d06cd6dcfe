import type { ControlValue } from '../session/controls';
import type { Command } from '../edits/commands';
import { stripMap } from '../session/lookup';
import type { AutomationMode, Lane, LanePoint, Lanes, Session } from '../session/types';
import type { Id, Seconds } from '../base/units';
import {
  findControl,
  lanesCommand,
  stripControls,
  vcaControls,
  type ControlRef,
  type PlacedControl,
} from './control';
import { lanesBut, laneValue, ordered } from './lane';

/** Lanes with one of them set, or taken out. */
export const withLane = (lanes: Lanes, control: string, lane: Lane | null): Lanes => {
  const rest = lanesBut(lanes, control);
  return lane && lane.length ? { ...rest, [control]: lane } : rest;
};

/**
 * Sets lanes of several controls in one edit. Those of one owner come together in one command.
 * @param lanes null takes a control's lane out
 */
export function setLanes(
  session: Session,
  edits: readonly { readonly ref: ControlRef; readonly lane: Lane | null }[],
): readonly Command[] {
  const owners = new Map<string, { ref: ControlRef; lanes: Lanes }>();
  for (const { ref, lane } of edits) {
    const key = `${ref.part} ${ref.owner} ${ref.id}`;
    const lanes = owners.get(key)?.lanes ?? findControl(session, ref)?.lanes;
    if (lanes) owners.set(key, { ref, lanes: withLane(lanes, ref.control, lane) });
  }
  return [...owners.values()].map(({ ref, lanes }) => lanesCommand(ref, lanes));
}

/** Sets the automation mode of strips and VCAs. */
export function setMode(session: Session, ids: readonly Id[], mode: AutomationMode): readonly Command[] {
  const strips = stripMap(session);
  return ids.map((id) =>
    strips.has(id)
      ? { type: 'strip.set', id, patch: { automation: mode } }
      : { type: 'vca.set', id, patch: { automation: mode } },
  );
}

/** All controls of a strip or VCA that have a lane. */
export const writtenControls = (session: Session, id: Id): readonly PlacedControl[] => {
  const strip = stripMap(session).get(id);
  const vca = strip ? undefined : session.vcas.find((v) => v.id === id);
  return (strip ? stripControls(strip) : vca ? vcaControls(vca) : []).filter((p) => p.lane);
};

/** All strips and VCAs that have a lane. */
export const writtenOwners = (session: Session): readonly Id[] =>
  [...session.strips, ...session.vcas]
    .map((x) => x.id)
    .filter((id) => writtenControls(session, id).length > 0);

/** Takes all lanes of strips and VCAs out; their controls then stand where they were put. */
export const clearLanes = (session: Session, ids: readonly Id[]): readonly Command[] =>
  setLanes(
    session,
    ids.flatMap((id) => writtenControls(session, id).map(({ ref }) => ({ ref, lane: null }))),
  );

const round = (time: Seconds) => Math.max(0, Math.round(time * 10000) / 10000);

/** A lane with one more point; at the time of another it takes that one's place. */
export const withPoint = (lane: Lane, time: Seconds, value: ControlValue): Lane =>
  ordered([...lane.filter(([t]) => t !== round(time)), [round(time), value]]);

/** A lane with a point moved: it stays between its neighbours. */
export function movePoint(lane: Lane, index: number, time: Seconds, value: ControlValue): Lane {
  const low = lane[index - 1]?.[0] ?? 0;
  const high = lane[index + 1]?.[0] ?? Infinity;
  const to: LanePoint = [Math.max(low, Math.min(high, round(time))), value];
  return lane.map((p, i) => (i === index ? to : p));
}

/** A lane without a point; null when it was the last one. */
export const withoutPoint = (lane: Lane, index: number): Lane | null =>
  lane.length > 1 ? lane.filter((_, i) => i !== index) : null;

/** A lane without the points of a span; what leads into it and out of it stays as it was. */
export function clearSpan(placed: PlacedControl, start: Seconds, end: Seconds): Lane | null {
  const { lane, control } = placed;
  if (!lane) return null;
  const rest = lane.filter(([t]) => t < start || t > end);
  if (rest.length === lane.length) return lane;
  if (rest.length === 0) return null;
  return ordered([
    ...lane.filter(([t]) => t < start),
    ...(start > lane[0]![0] ? [[round(start), laneValue(control, lane, start, 'before')] as const] : []),
    ...(end < lane.at(-1)![0] ? [[round(end), laneValue(control, lane, end)] as const] : []),
    ...lane.filter(([t]) => t > end),
  ]);
}
