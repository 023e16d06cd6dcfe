import type { Sequelize } from 'sequelize';
import { Refusal } from '../../core/base/refusal';
import type { Role } from '../../core/base/role';
import type { Access } from '../access/access';
import type { Live } from '../live/live';
import { log } from '../log';
import type { Keep } from '../sessions/keep';
import { findSession, listSessions } from '../sessions/sessions';
import { Osc, type OscRight } from './osc';
import type { OscState } from './state';
import { keepOscSwitch, readOscSwitch, type OscSwitch } from './switched';

/** OSC as the page switches it. */
export interface OscHost {
  state(): Promise<OscState & { readonly wanted: OscSwitch }>;
  /** @throws Refusal where the port is taken: then it is as it was */
  switch(to: OscSwitch): Promise<void>;
  /** Listens anew: the network was let in, or shut out. */
  again(): Promise<void>;
  /** The port that it listens on; null while it is off. */
  port(): number | null;
  close(): Promise<void>;
}

/** Who sits at the machine itself speaks from here; every other address is that of another machine. */
const ITSELF = ['127.0.0.1', '::1'];
const RIGHTS: Readonly<Record<Role, OscRight>> = { listen: 'listen', hands: 'move', mix: 'move' };

/** @param network whether the studio's network is let in */
export function oscHost(
  sequelize: Sequelize,
  live: Live,
  keep: Keep,
  access: Access,
  network: () => Promise<boolean>,
): OscHost {
  const osc = new Osc({
    live,
    keep,
    read: (idOrName) => findSession(sequelize, idOrName),
    latest: async () => (await listSessions(sequelize))[0]?.id ?? null,
    right(address) {
      if (ITSELF.includes(address)) return 'all';
      const device = access.at(address);
      return device ? RIGHTS[device.role] : 'none';
    },
    async pair(address, code) {
      if (ITSELF.includes(address)) throw new Refusal('in-use', 'The machine itself needs no code.');
      return RIGHTS[(await access.pair(address, code, '', true)).role];
    },
  });
  const put = async ({ on, port }: OscSwitch) =>
    on ? osc.open((await network()) ? '0.0.0.0' : '127.0.0.1', port) : osc.close();
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
    async again() {
      await begun;
      if (osc.port !== null) await put(await readOscSwitch());
    },
    port: () => osc.port,
    async close() {
      await begun;
      await osc.end();
    },
  };
}
