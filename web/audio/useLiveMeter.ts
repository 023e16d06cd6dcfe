import { onBeforeUnmount, watch } from 'vue';
import type { LiveReading } from '@core/metering/liveMeter';
import { useTransport } from './transport';

/**
 * Has a strip be measured while the component is there.
 * @returns what is known of it at this moment; null where nothing is
 */
export function useLiveMeter(strip: () => string | null | undefined): () => LiveReading | null {
  const transport = useTransport();
  let end: (() => void) | null = null;
  watch(
    () => [transport.player, strip()] as const,
    ([player, id]) => {
      end?.();
      end = player && id ? player.live.watch(id) : null;
    },
    { immediate: true },
  );
  onBeforeUnmount(() => end?.());
  return () => {
    const id = strip();
    return id && transport.player?.started ? transport.player.live.read(id) : null;
  };
}
