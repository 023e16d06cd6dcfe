import { useRafFn } from '@vueuse/core';
import { nextTick, watch, type ComputedRef, type Ref } from 'vue';
import { useSettings } from '../../stores/settings';
import { useTransport } from '../../stores/transport';

/** A hairline of gain reduction: along the foot of an insert's cell. */
export interface Hairline {
  /** First float of the insert's dynamics. */
  readonly slot: number;
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly source: boolean;
}

/** Reduction at which the line is as long as its cell. */
const FULL_DB = 18;

/** Paints how far dynamics turn down, on every insert in view, at the display's rate. */
export function useReductionCanvas(
  canvas: Ref<HTMLCanvasElement | null>,
  layout: {
    readonly lines: ComputedRef<readonly Hairline[]>;
    readonly width: () => number;
    readonly height: () => number;
    readonly zones: () => readonly {
      readonly from: number;
      readonly width: number;
      readonly sources: boolean;
    }[];
  },
): void {
  const settings = useSettings();
  const transport = useTransport();
  let colour = '';
  watch(
    () => [settings.theme, canvas.value],
    async () => {
      await nextTick();
      if (canvas.value) colour = getComputedStyle(canvas.value).getPropertyValue('--caution').trim();
    },
    { immediate: true, flush: 'post' },
  );
  let painted = false;
  useRafFn(() => {
    const el = canvas.value;
    const player = transport.player;
    if (!el || !colour) return;
    const lines = layout.lines.value;
    if (!player?.started || lines.length === 0) {
      if (painted) el.getContext('2d')!.clearRect(0, 0, el.width, el.height);
      painted = false;
      return;
    }
    painted = true;
    const width = Math.max(1, Math.round(layout.width()));
    const height = layout.height();
    const scale = devicePixelRatio;
    if (el.width !== Math.round(width * scale) || el.height !== Math.round(height * scale)) {
      el.width = Math.round(width * scale);
      el.height = Math.round(height * scale);
    }
    const g = el.getContext('2d')!;
    g.setTransform(scale, 0, 0, scale, 0, 0);
    g.clearRect(0, 0, width, height);
    g.fillStyle = colour;
    for (const zone of layout.zones()) {
      g.save();
      g.beginPath();
      g.rect(zone.from, 0, zone.width, height);
      g.clip();
      for (const line of lines) {
        if (line.source !== zone.sources) continue;
        const down = player.dynamics[line.slot]!;
        // From the right, as what is taken away.
        const long = Math.min(1, down / FULL_DB) * line.width;
        if (long >= 0.5) g.fillRect(line.x + line.width - long, line.y, long, 2);
      }
      g.restore();
    }
  });
}
