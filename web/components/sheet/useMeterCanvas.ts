import { useRafFn } from '@vueuse/core';
import { nextTick, watch, type ComputedRef, type Ref } from 'vue';
import { useSettings } from '../../stores/settings';
import { useTransport } from '../../stores/transport';
import { paintMeters, pushWave, type MeterColours, type MeterPlace } from './paintMeters';

export interface MeterLayout {
  readonly places: ComputedRef<readonly MeterPlace[]>;
  readonly width: () => number;
  readonly height: () => number;
  /** Parts of the canvas that scroll by themselves. */
  readonly zones: () => readonly {
    readonly from: number;
    readonly width: number;
    readonly sources: boolean;
  }[];
}

/** Paints the meters in view at the display's rate, straight from the memory that the engine writes. */
export function useMeterCanvas(canvas: Ref<HTMLCanvasElement | null>, layout: MeterLayout): void {
  const settings = useSettings();
  const transport = useTransport();
  let colours: MeterColours | null = null;
  watch(
    () => [settings.theme, canvas.value],
    async () => {
      await nextTick();
      if (!canvas.value) return;
      const style = getComputedStyle(canvas.value);
      const v = (name: string) => style.getPropertyValue(name).trim();
      colours = {
        well: v('--well'),
        signal: v('--signal-deep'),
        hot: v('--caution'),
        clip: v('--alert'),
        mark: v('--ink'),
      };
    },
    { immediate: true, flush: 'post' },
  );
  useRafFn(() => {
    const el = canvas.value;
    if (!el || !colours) return;
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
    const player = transport.player;
    const readings = player?.started ? player.meters : null;
    if (readings && player?.rolling)
      for (const p of layout.places.value) if (p.wave) pushWave(p.wave, readings, p.slot, p.channels);
    for (const zone of layout.zones()) {
      g.save();
      g.beginPath();
      g.rect(zone.from, 0, zone.width, height);
      g.clip();
      paintMeters(
        g,
        readings,
        layout.places.value.filter((p) => (p.kind === 'source') === zone.sources),
        0,
        height,
        colours,
      );
      g.restore();
    }
  });
}
