import type { ComputedRef, Ref } from 'vue';
import { useTransport } from '@/audio/transport';
import { paintMeters, pushWave, seenOfMeters, type MeterPlace } from './paintMeters';
import { useZoneCanvas, type ZoneCanvas } from '@/ui/zoneCanvas';

export interface MeterLayout extends Pick<ZoneCanvas<never>, 'width' | 'height' | 'zones'> {
  readonly places: ComputedRef<readonly MeterPlace[]>;
}

/** Paints the meters in view, straight from the memory that the engine writes. */
export function useMeterCanvas(canvas: Ref<HTMLCanvasElement | null>, layout: MeterLayout): void {
  const transport = useTransport();
  const readings = () => (transport.player?.started ? transport.player.meters : null);
  useZoneCanvas(canvas, {
    ...layout,
    colours: (v) => ({
      well: v('--well'),
      signal: v('--signal-deep'),
      hot: v('--caution'),
      clip: v('--alert'),
      mark: v('--ink'),
    }),
    before() {
      const meters = readings();
      if (meters && transport.player?.rolling)
        for (const p of layout.places.value) if (p.wave) pushWave(p.wave, meters, p.slot, p.channels);
    },
    seen: (note) => seenOfMeters(readings(), layout.places.value, note),
    paint: (g, zone, colours) =>
      paintMeters(
        g,
        readings(),
        layout.places.value.filter((p) => p.source === zone.sources),
        0,
        layout.height(),
        colours,
      ),
  });
}
