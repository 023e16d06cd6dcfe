import { useRafFn } from '@vueuse/core';
import { nextTick, watch, type Ref } from 'vue';
import { useTheme } from 'vuetify';
import { Painted } from './painted';

/** A part of a canvas that scrolls by itself. */
export interface Zone {
  readonly from: number;
  readonly width: number;
  readonly sources: boolean;
}
export interface ZoneCanvas<C> {
  readonly width: () => number;
  readonly height: () => number;
  readonly zones: () => readonly Zone[];
  /** Colours of the theme that stands, by their tokens. */
  readonly colours: (token: (name: string) => string) => C;
  /** Tells all that the picture is painted from, beside its size and its colours: what stands still is not painted again. */
  readonly seen: (note: (value: unknown) => void) => void;
  /** Once a picture, before the zones. */
  readonly before?: () => void;
  /** Paints what lies in a zone; what reaches beyond it is cut off. */
  readonly paint: (g: CanvasRenderingContext2D, zone: Zone, colours: C) => void;
}

/** Paints a canvas over the Sheet at the display's rate, each zone by itself, past Vue's reactivity. */
export function useZoneCanvas<C>(canvas: Ref<HTMLCanvasElement | null>, host: ZoneCanvas<C>): void {
  const theme = useTheme();
  let colours: C | null = null;
  watch(
    () => [theme.name.value, canvas.value],
    async () => {
      await nextTick();
      if (!canvas.value) return;
      const style = getComputedStyle(canvas.value);
      colours = host.colours((name) => style.getPropertyValue(name).trim());
    },
    { immediate: true, flush: 'post' },
  );
  const painted = new Painted();
  useRafFn(() => {
    const el = canvas.value;
    if (!el || !colours) return;
    host.before?.();
    const note = painted.begin();
    for (const value of [el, colours, devicePixelRatio, host.width(), host.height()]) note(value);
    for (const { from, width } of host.zones()) {
      note(from);
      note(width);
    }
    host.seen(note);
    if (!painted.other) return;
    const g = fitCanvas(el, Math.max(1, Math.round(host.width())), host.height());
    for (const zone of host.zones()) {
      g.save();
      g.beginPath();
      g.rect(zone.from, 0, zone.width, host.height());
      g.clip();
      host.paint(g, zone, colours);
      g.restore();
    }
  });
}

/** Gives a canvas as many pixels as its place has on this display, and clears it. @returns its context, in CSS pixels */
export function fitCanvas(el: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D {
  const scale = devicePixelRatio;
  const [w, h] = [Math.round(width * scale), Math.round(height * scale)];
  if (el.width !== w || el.height !== h) {
    el.width = w;
    el.height = h;
  }
  const g = el.getContext('2d')!;
  g.setTransform(scale, 0, 0, scale, 0, 0);
  g.clearRect(0, 0, width, height);
  return g;
}
