import { computed, nextTick, ref, useTemplateRef, type ComputedRef, type Ref } from 'vue';
import { lanesCommand, refKey } from '@core/automation/control';
import { movePoint, withLane, withoutPoint, withPoint } from '@core/automation/edit';
import { laneValue, pointsBefore } from '@core/automation/lane';
import type { Lane } from '@core/session/types';
import { useTransport } from '@/audio/transport';
import { useCommands } from '@/commands/commands';
import { useAutomation } from '@/session/automation/automation';
import { useSession } from '@/session/session';
import { useDrag } from '@/ui/drag';
import { useNotices } from '@/ui/notices';
import type { LaneProps, useLaneShape } from './laneShape';
import { say } from './texts';

/** Pixels within which a press takes a point. */
const NEAR = 8;

/**
 * Pointer and keys on a lane: its points are made, moved, typed and taken out.
 * @param what how the lane is called in the history
 */
export function useLaneHands(
  props: LaneProps,
  plot: Ref<SVGSVGElement | null>,
  shape: ReturnType<typeof useLaneShape>,
  name: ComputedRef<string>,
  what: ComputedRef<string>,
) {
  const session = useSession();
  const transport = useTransport();
  const automation = useAutomation();
  const keymap = useCommands();
  const notices = useNotices();
  const { control, timeAt, travelAt, travelOfPixels, handles } = shape;
  const key = computed(() => refKey(props.placed.ref));
  const selected = computed(() => (automation.selected?.key === key.value ? automation.selected.point : -1));

  const edit = (next: Lane | null) => [
    lanesCommand(props.placed.ref, withLane(props.placed.lanes, control.value.id, next)),
  ];
  const dragName = computed(() => `lane ${key.value}`);
  const commit = (label: string, next: Lane | null) => session.commit(`${label} ${what.value}`, edit(next));
  const select = (point: number) => (automation.selected = { key: key.value, point });

  function addAt(time: number, value: number | null) {
    const next = withPoint(props.placed.lane ?? [], time, value);
    if (commit(say('pointOf'), next)) select(pointsBefore(next, time) - 1);
  }
  function remove(index: number) {
    const l = props.placed.lane;
    if (!l?.[index]) return;
    commit(say('removeAPointOf'), withoutPoint(l, index));
    select(Math.min(index, l.length - 2));
  }

  /** A point that is held: the lane it belongs to, and where it was taken. */
  interface HeldPoint {
    readonly base: Lane;
    readonly index: number;
    readonly x: number;
    readonly y: number;
    readonly time: number;
    readonly travel: number;
    readonly fresh: boolean;
  }
  /** The lane as the drag stands; null while it has moved nothing. */
  let next: Lane | null = null;
  function spot(e: PointerEvent | MouseEvent | WheelEvent) {
    const box = plot.value!.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  }
  const drag = useDrag<HeldPoint>({
    begin(e) {
      const { x, y } = spot(e);
      next = null;
      const near = handles.value
        .map((h) => ({ h, d: Math.hypot(h.x - x, h.y - y) }))
        .filter(({ d }) => d <= NEAR)
        .sort((a, b) => a.d - b.d)[0]?.h;
      if (near && e.altKey) {
        remove(near.index);
        return null;
      }
      if (near) {
        select(near.index);
        const { index, t: time } = near;
        return {
          base: props.placed.lane!,
          index,
          x,
          y,
          time,
          travel: control.value.travelOf(near.v),
          fresh: false,
        };
      }
      const time = Math.max(0, timeAt(x));
      const base = withPoint(props.placed.lane ?? [], time, control.value.valueAt(travelAt(y)));
      const index = pointsBefore(base, Math.round(time * 10000) / 10000) - 1;
      next = base;
      select(index);
      session.live(dragName.value, edit(base));
      return { base, index, x, y, time, travel: travelAt(y), fresh: true };
    },
    move(e, { note }) {
      const { x, y } = spot(e);
      if (!note.fresh && !next && Math.hypot(x - note.x, y - note.y) < 2) return;
      const fine = e.shiftKey ? 0.1 : 1;
      const travel = Math.max(0, Math.min(1, note.travel - travelOfPixels(y - note.y) * fine));
      // With Ctrl it goes up and down alone.
      const time = e.ctrlKey || e.metaKey ? note.time : note.time + timeAt(x) - timeAt(note.x);
      next = movePoint(note.base, note.index, time, control.value.valueAt(travel));
      session.live(dragName.value, edit(next));
    },
    end({ note }) {
      if (!next) return session.live(dragName.value, null);
      session.land(
        dragName.value,
        `${note.fresh ? say('pointOf') : say('moveAPointOf')} ${what.value}`,
        edit(next),
      );
    },
    cancel: () => session.live(dragName.value, null),
  });

  // — keys —
  const typing = ref<string | null>(null);
  const field = useTemplateRef<HTMLInputElement>('field');
  async function type() {
    const point = props.placed.lane?.[selected.value];
    if (!point) return;
    typing.value = control.value.text(point[1]).replace('−', '-');
    await nextTick();
    field.value?.select();
  }
  function typed() {
    const text = typing.value;
    const point = props.placed.lane?.[selected.value];
    if (text === null || !point) return;
    const value = control.value.read(text);
    if (value === undefined) {
      notices.refused(
        say('textNoValueNameType', {
          text,
          name: name.value.toLowerCase(),
          text2: control.value.text(point[1]),
        }),
      );
      return;
    }
    typing.value = null;
    commit(say('setAPointOf'), movePoint(props.placed.lane, selected.value, point[0], value));
    plot.value?.focus();
  }
  /** A new point where the control stands at the playhead. */
  function addHere() {
    const l = props.placed.lane;
    addAt(transport.position, l ? laneValue(control.value, l, transport.position) : props.placed.value);
  }
  function shift(by: number) {
    const l = props.placed.lane!;
    const point = l[selected.value]!;
    session.settle(
      dragName.value,
      say('movePoint', { what: what.value }),
      edit(movePoint(l, selected.value, point[0] + by, point[1])),
    );
  }
  function step(way: 1 | -1, fine: boolean) {
    const l = props.placed.lane!;
    const point = l[selected.value]!;
    const size = control.value.stepped ? 1 : fine ? 0.004 : 0.02;
    const travel = Math.max(0, Math.min(1, control.value.travelOf(point[1]) + way * size));
    session.settle(
      dragName.value,
      say('movePoint', { what: what.value }),
      edit(movePoint(l, selected.value, point[0], control.value.valueAt(travel))),
    );
  }
  /** What each key of a lane does; those of a point do nothing where none is chosen. */
  function obey(key: string, fine: boolean): boolean {
    const l = props.placed.lane;
    const at = selected.value;
    const point = l?.[at];
    if (key === 'type' && point) void type();
    else if (key === 'type' || key === 'add') addHere();
    else if (!l) return false;
    else if (key === 'left' || key === 'right')
      select(Math.max(0, Math.min(l.length - 1, at < 0 ? 0 : at + (key === 'left' ? -1 : 1))));
    else if (!point) return false;
    else if (key === 'earlier' || key === 'later') shift((key === 'earlier' ? -1 : 1) * (fine ? 0.01 : 0.1));
    else if (key === 'more' || key === 'less') step(key === 'more' ? 1 : -1, fine);
    else if (key === 'default')
      commit(say('defaultPoint'), movePoint(l, at, point[0], control.value.default));
    else if (key === 'remove') remove(at);
    else if (key === 'leave') automation.selected = null;
    else return false;
    return true;
  }
  function keys(e: KeyboardEvent) {
    const key = keymap.keyIn('lane', e);
    if (!key || !obey(key, e.shiftKey)) return;
    e.preventDefault();
    e.stopPropagation();
  }

  return { selected, typing, drag, keys, typed, commit, addHere, spot };
}
