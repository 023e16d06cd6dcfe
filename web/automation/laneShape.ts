import { computed, type Ref } from 'vue';
import type { PlacedControl } from '@core/automation/control';
import { pointsBefore } from '@core/automation/lane';
import type { Lane } from '@core/session/types';
import type { TimeSpan } from './timeSpan';

/** Room at the left and right ends, so that a point at the very start can be taken. */
export const PAD = 8;
const TOP = 8;
const FOOT = 8;
/** Points are drawn as handles while there are no more of them in view than this. */
const MOST_HANDLES = 300;

export interface LaneProps {
  readonly placed: PlacedControl;
  readonly colour: string;
  readonly span: TimeSpan;
  readonly grid: readonly number[];
  readonly height: number;
}

/**
 * Where a lane's line, points and scale are drawn, in pixels.
 * @param lane the lane as it is heard; null where there is none
 * @param writing whether a hand is writing it now: then it has no handles
 */
export function useLaneShape(
  props: LaneProps,
  width: Ref<number>,
  lane: Ref<Lane | null>,
  writing: Ref<boolean>,
) {
  const control = computed(() => props.placed.control);
  const inner = computed(() => Math.max(1, width.value - 2 * PAD));
  const xOf = (t: number) => PAD + ((t - props.span.start) / props.span.length) * inner.value;
  const yOf = (v: number | null) => TOP + (1 - control.value.travelOf(v)) * (props.height - TOP - FOOT);
  const timeAt = (x: number) => props.span.start + ((x - PAD) / inner.value) * props.span.length;
  const travelAt = (y: number) => Math.max(0, Math.min(1, 1 - (y - TOP) / (props.height - TOP - FOOT)));
  /** Travel of a move by so many pixels down. */
  const travelOfPixels = (pixels: number) => pixels / (props.height - TOP - FOOT);

  /** First and last point that are drawn: one beyond either edge. */
  const range = computed(() => {
    if (!lane.value) return [0, 0] as const;
    const from = Math.max(0, pointsBefore(lane.value, props.span.start, 'before') - 1);
    const to = Math.min(
      lane.value.length,
      pointsBefore(lane.value, props.span.start + props.span.length) + 1,
    );
    return [from, to] as const;
  });
  const path = computed(() => {
    const l = lane.value;
    const end = width.value;
    if (!l) {
      const y = yOf(props.placed.value);
      return `M0 ${y} H${end}`;
    }
    const [from, to] = range.value;
    let d = `M${Math.min(0, xOf(l[from]![0]))} ${yOf(l[from]![1])}`;
    let y = yOf(l[from]![1]);
    for (let i = from; i < to; i++) {
      const x = xOf(l[i]![0]);
      const next = yOf(l[i]![1]);
      d += control.value.stepped ? ` H${x} V${next}` : i === from ? ` H${x}` : ` L${x} ${next}`;
      y = next;
    }
    return `${d} M${xOf(l[to - 1]![0])} ${y} H${Math.max(end, xOf(l[to - 1]![0]))}`;
  });
  const handles = computed(() => {
    const l = props.placed.lane;
    if (!l || writing.value) return [];
    const [from, to] = range.value;
    if (to - from > MOST_HANDLES) return [];
    return l.slice(from, to).map(([t, v], i) => ({ index: from + i, t, v, x: xOf(t), y: yOf(v) }));
  });
  /** Values along the control's travel, from the top down. */
  const scale = computed(() => {
    const shares =
      control.value.stepped && control.value.travelOf(1) === 1
        ? [1, 0]
        : props.height > 110
          ? [1, 0.75, 0.5, 0.25, 0]
          : [1, 0.5, 0];
    return shares.map((share) => {
      const value = control.value.valueAt(share);
      return { y: yOf(value), text: control.value.text(value).replace(/ dB$/, '') };
    });
  });

  return { control, inner, xOf, yOf, timeAt, travelAt, travelOfPixels, path, handles, scale };
}
