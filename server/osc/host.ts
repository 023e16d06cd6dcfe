import type { Sequelize } from 'sequelize';
import { Refusal } from '../../core/base/refusal';
import type { Live } from '../live/live';
import { log } from '../log';
import type { Keep } from '../sessions/keep';
import { findSession, listSessions } from '../sessions/sessions';
import { Osc, type OscState } from './osc';
import { keepOscSwitch, readOscSwitch, type OscSwitch } from './switched';

/** OSC as the page switches it. */
export interface OscHost {
  state(): Promise<OscState & { readonly wanted: OscSwitch }>;
  /** @throws Refusal where the port is taken: then it is as it was */
  switch(to: OscSwitch): Promise<void>;
  /** The port that it listens on; null while it is off. */
  port(): number | null;
  close(): Promise<void>;
}

const isLoopback = (address: string) => /^(::ffff:)?127\./.test(address) || address === '::1';

export function oscHost(sequelize: Sequelize, live: Live, keep: Keep): OscHost {
  const osc = new Osc({
    live,
    keep,
    read: (idOrName) => findSession(sequelize, idOrName),
    latest: async () => (await listSessions(sequelize))[0]?.id ?? null,
    right: (address) => (isLoopback(address) ? 'move' : 'none'),
    pair: () => Promise.reject(new Refusal('in-use', 'On this machine nobody has to be let in.')),
  });
  const put = ({ on, port }: OscSwitch) => (on ? osc.open('127.0.0.1', port) : osc.close());
  // What it was left at; nobody waits for it.
  const begun = readOscSwitch()
    .then(put)
    .catch((err: unknown) => log.warn({ err }, 'OSC could not be switched on.'));
  return {
    async state() {
      await begun;
      return { ...osc.state(), wanted: await readOscSwitch() };
    },
    async switch(to) {
      await begun;
      const before = await readOscSwitch();
      try {
        await put(to);
      } catch (error) {
        await put(before).catch(() => {});
        throw error;
      }
      await keepOscSwitch(to);
    },
    port: () => osc.port,
    async close() {
      await begun;
      await osc.end();
    },
  };
}
