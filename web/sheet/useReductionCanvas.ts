import type { ComputedRef, Ref } from 'vue';
import { useTransport } from '@/audio/transport';
import { useZoneCanvas, type ZoneCanvas } from '@/ui/zoneCanvas';

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

/** Length of a hairline, in pixels: by the decibels that are taken away. */
export const hairlineLength = (reduction: number, width: number): number =>
  Math.max(0, Math.min(1, reduction / FULL_DB)) * width;

/** Paints how far dynamics turn down, on every insert in view. */
export function useReductionCanvas(
  canvas: Ref<HTMLCanvasElement | null>,
  layout: Pick<ZoneCanvas<never>, 'width' | 'height' | 'zones'> & {
    readonly lines: ComputedRef<readonly Hairline[]>;
  },
): void {
  const transport = useTransport();
  useZoneCanvas(canvas, {
    ...layout,
    colours: (token) => token('--caution'),
    seen(note) {
      const player = transport.player;
      const lines = layout.lines.value;
      note(lines);
      if (player?.started)
        for (const line of lines)
          note(Math.round(2 * hairlineLength(player.dynamics[line.slot]!, line.width)));
    },
    paint(g, zone, colour) {
      const player = transport.player;
      if (!player?.started) return;
      g.fillStyle = colour;
      for (const line of layout.lines.value) {
        if (line.source !== zone.sources) continue;
        // From the right, as what is taken away.
        const long = hairlineLength(player.dynamics[line.slot]!, line.width);
        if (long >= 0.5) g.fillRect(line.x + line.width - long, line.y, long, 2);
      }
    },
  });
}
