import { stripMap } from '../session/lookup';
import type { Channels, PanLaw, Send, Session, Strip } from '../session/types';
import { gainOf } from '../levels/decibels';
import { balance, panMono } from '../levels/pan';

/** Channels of a strip's signal after its pan: a mono strip becomes stereo on its way into a stereo destination. */
export function pannedChannels(session: Session, strip: Strip): Channels {
  if (strip.channels === 2 || strip.out.to === null) return strip.channels;
  return stripMap(session).get(strip.out.to)?.channels ?? 2;
}

/**
 * Gains of a strip's signal into a destination: [left, right] for a stereo destination or source, [gain, gain] mono to
 * mono. The strip's own pan stands in it only for a mono strip's signal after the pan; a stereo strip's is applied in its
 * chain. Stereo into mono adds both, each at half.
 */
export function edgeGains(
  panLaw: PanLaw,
  strip: Pick<Strip, 'channels' | 'pan'>,
  to: Channels,
  send: Pick<Send, 'levelDb' | 'tap' | 'pan'> | null,
): readonly [number, number] {
  const level = send ? gainOf(send.levelDb) : 1;
  if (strip.channels === 1) {
    if (to === 1) return [level, level];
    if (send === null) return panMono(strip.pan, panLaw);
    if (send.tap === 'post') {
      const [l, r] = panMono(strip.pan, panLaw);
      const [bl, br] = balance(send.pan);
      return [level * l * bl, level * r * br];
    }
    const [l, r] = panMono(send.pan, panLaw);
    return [level * l, level * r];
  }
  const [bl, br] = send ? balance(send.pan) : [1, 1];
  const fold = to === 1 ? 0.5 : 1;
  return [level * bl * fold, level * br * fold];
}
