import { createSocket, type Socket } from 'node:dgram';
import { encodeOsc, isBundle, readOsc, type OscMessage, type OscPacket } from '../../core/wire/osc';

/** Simulated controllers of windows of the page, which cannot speak UDP themselves. */
export interface OscStandIns {
  /** Plugs one in. @param told what it is told, as it comes */
  plug(window: string, told: (messages: readonly OscMessage[]) => void): void;
  unplug(window: string): void;
  /** Sends what it says, as a real packet. @returns why it cannot */
  say(window: string, messages: readonly OscMessage[]): string | null;
}

/** @param port that OSC listens on; null while it is off */
export function oscStandIns(port: () => number | null): OscStandIns {
  const sockets = new Map<string, Socket>();
  const unplug = (window: string) => {
    sockets.get(window)?.close();
    sockets.delete(window);
  };
  return {
    plug(window, told) {
      unplug(window);
      const socket = createSocket('udp4');
      const take = (packet: OscPacket): readonly OscMessage[] =>
        isBundle(packet) ? packet.elements.flatMap(take) : [packet];
      socket.on('message', (bytes) => {
        try {
          told(take(readOsc(bytes)));
        } catch {
          // It comes from this server alone; what is no packet is nobody's.
        }
      });
      // Where nothing listens any more, the page sees that nothing answers.
      socket.on('error', () => {});
      socket.unref();
      sockets.set(window, socket);
    },
    unplug,
    say(window, messages) {
      const socket = sockets.get(window);
      if (!socket) return 'The simulated controller is not plugged in.';
      const to = port();
      if (to === null) return 'OSC is switched off.';
      for (const message of messages) socket.send(encodeOsc(message), to, '127.0.0.1');
      return null;
    },
  };
}
