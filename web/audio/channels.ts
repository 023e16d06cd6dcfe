import { monitoredOutput } from '@core/session/lookup';
import type { Session } from '@core/session/types';

/** An output that is played: its strip, and the device's channel on which its left side leaves, from 0. */
export interface PlayedOutput {
  readonly strip: string;
  readonly channel: number;
}

/**
 * What is played where: the monitored output on the device's first two channels; every other one on its own pair, where
 * the device has it. The first pair belongs to what is monitored.
 * @param channels of the device
 */
export function playedOutputs(session: Session, channels: number): readonly PlayedOutput[] {
  const heard = monitoredOutput(session);
  if (!heard) return [];
  return [
    { strip: heard.id, channel: 0 },
    ...session.strips
      .filter(
        (s) => s.kind === 'output' && s !== heard && s.pair !== null && s.pair >= 3 && s.pair < channels,
      )
      .map((s) => ({ strip: s.id, channel: s.pair! - 1 })),
  ];
}
