import { createServer as createHttp, type Server } from 'node:http';
import { createServer as createHttps } from 'node:https';
import { networkInterfaces } from 'node:os';
import { Refusal } from '../../core/base/refusal';
import { SettingRow } from '../database/models';
import { log } from '../log';
import { certificateFor } from './certificate';

export interface StudioOptions {
  /** Where the machine itself is served. */
  readonly port: number;
  readonly securePort: number;
  /** Whether that listens on every address already, as ZONULA_HOST says. */
  readonly everywhere: boolean;
  /** Whether ZONULA_HOST opens it, so that no switch closes it. */
  readonly forced: boolean;
  /** Where a certificate is kept that is made here. */
  readonly folder: string;
  readonly certificate: { readonly cert: string; readonly key: string } | null;
  /** Has a server answer as the first one does. */
  readonly serve: (server: Server) => void;
  /** Addresses of the machine in its networks. */
  readonly addresses?: () => readonly string[];
}
export interface StudioState {
  readonly open: boolean;
  /** Whether it was opened when it was started, so that no switch closes it. */
  readonly forced: boolean;
  readonly http: readonly string[];
  readonly https: readonly string[];
  readonly selfMade: boolean;
  /** Why it cannot be reached safely. */
  readonly problem: string | null;
}
/** Milliseconds after which it is looked whether the machine has other addresses. */
const LOOK_MS = 15_000;
const NAME = 'studio';

/** Addresses of this machine by which others of its networks reach it. */
export const ownAddresses = (): readonly string[] =>
  Object.values(networkInterfaces())
    .flat()
    .flatMap((i) => (i && !i.internal && !i.address.startsWith('fe80') ? [i.address] : []));
const inUrl = (address: string) => (address.includes(':') ? `[${address}]` : address);

/** Lets other machines speak to Zonula, on each address of this one, by HTTP and by HTTPS. */
export class Studio {
  private listening = new Map<string, Server>();
  private open = false;
  private selfMade = true;
  private problem: string | null = null;
  private timer: NodeJS.Timeout | null = null;
  private busy: Promise<void> = Promise.resolve();
  /** Resolves when it is as it was left. */
  readonly begun: Promise<void>;

  constructor(private readonly options: StudioOptions) {
    this.begun = this.begin().catch((err: unknown) =>
      log.warn({ err }, 'Zonula could not be opened to the network.'),
    );
  }
  private async begin() {
    const row = await SettingRow.findByPk(NAME);
    if ((row?.value as { open?: boolean } | undefined)?.open || this.options.forced) await this.put(true);
  }
  state(): StudioState {
    const { port, securePort, everywhere, forced } = this.options;
    const addresses = this.addresses();
    const at = (kind: 'http' | 'https') =>
      addresses
        .filter((a) => (kind === 'http' && everywhere) || this.listening.has(`${kind} ${a}`))
        .map((a) => `${kind}://${inUrl(a)}:${kind === 'http' ? port : securePort}`);
    return {
      open: this.open,
      forced,
      http: this.open ? at('http') : [],
      https: this.open ? at('https') : [],
      selfMade: this.selfMade,
      problem: this.problem,
    };
  }
  private addresses() {
    return (this.options.addresses ?? ownAddresses)();
  }

  /** Opens or closes it, and keeps that. @throws Refusal where no address can be listened on */
  async switch(open: boolean): Promise<void> {
    await this.begun;
    if (!open && this.options.forced)
      throw new Refusal(
        'in-use',
        'Zonula was opened when it was started, by ZONULA_HOST. To close it, start it without.',
      );
    await this.put(open);
    await SettingRow.upsert({ name: NAME, value: { open } });
  }
  private put(open: boolean): Promise<void> {
    const next = this.busy.catch(() => {}).then(() => (open ? this.begins() : this.ends()));
    this.busy = next.catch(() => {});
    return next;
  }
  private async begins() {
    this.open = true;
    await this.bring();
    if (!this.options.everywhere && ![...this.listening.keys()].some((k) => k.startsWith('http '))) {
      const why = this.addresses().length
        ? `Nothing can listen there: ${this.problem ?? 'every address is taken'}.`
        : 'This machine is in no network: connect it first.';
      await this.ends();
      throw new Refusal('in-use', why);
    }
    this.timer ??= setInterval(
      () => void (this.busy = this.busy.then(() => this.bring()).catch(() => {})),
      LOOK_MS,
    );
    this.timer.unref();
  }
  /** Listens on every address that there is, and no more on those that are gone. */
  private async bring() {
    const { port, securePort, everywhere, serve, folder, certificate } = this.options;
    const addresses = this.addresses();
    this.problem = null;
    const wanted = new Map<string, () => Promise<Server>>();
    for (const a of addresses) {
      if (!everywhere) wanted.set(`http ${a}`, async () => listen(createHttp(), port, a));
      wanted.set(`https ${a}`, async () => {
        const found = await certificateFor(folder, addresses, certificate);
        this.selfMade = found.selfMade;
        return listen(createHttps({ cert: found.cert, key: found.key }) as unknown as Server, securePort, a);
      });
    }
    for (const [key, server] of this.listening)
      if (!wanted.has(key)) {
        await ended(server);
        this.listening.delete(key);
      }
    for (const [key, make] of wanted) {
      if (this.listening.has(key)) continue;
      try {
        const server = await make();
        serve(server);
        this.listening.set(key, server);
      } catch (err) {
        this.problem = (err as Error).message;
        log.warn({ err }, 'An address of the network cannot be listened on.');
      }
    }
  }
  private async ends() {
    this.open = false;
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    await Promise.all([...this.listening.values()].map(ended));
    this.listening = new Map();
  }
  async close(): Promise<void> {
    await this.begun;
    await this.put(false);
  }
}

function listen(server: Server, port: number, address: string): Promise<Server> {
  return new Promise((done, fail) => {
    server.once('error', fail);
    server.listen(port, address, () => {
      server.off('error', fail);
      server.on('error', (err) => log.warn({ err }, 'A server of the network failed.'));
      done(server);
    });
  });
}
function ended(server: Server): Promise<void> {
  return new Promise((done) => {
    server.close(() => done());
    // Whoever is connected by it is closed too: it is closed to them.
    server.closeAllConnections();
  });
}
