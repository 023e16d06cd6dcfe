import { createSocket, type RemoteInfo, type Socket } from 'node:dgram';
import { TooMany } from '../access/access';
import { mayKeep } from '../access/routes';
import { BadRequest } from '../api/errors';
import { Refusal } from '../../core/base/refusal';
import { apply } from '../../core/edits/apply';
import { withLinks } from '../../core/operations/together';
import type { OscDone, OscLeaf, OscWorld } from '../../core/osc/address';
import { subscriptionOf } from '../../core/osc/telling';
import { oscFind, oscRoot } from '../../core/osc/tree';
import { encodeOsc, type OscArgument, type OscMessage } from '../../core/wire/osc';
import type { Session } from '../../core/session/types';
import type { Live } from '../live/live';
import { log } from '../log';
import type { Keep } from '../sessions/keep';
import { askPlayer, takeStep } from './acts';
import { Controller, LAPSES_S } from './controller';
import { Gestures } from './gestures';
import { Intake, type Heard } from './intake';
import type { OscState } from './state';
import { Steered, type KeptSession } from './steered';

/** Milliseconds between two turns: what came is done, and what changed is told. */
const TURN_MS = 10;
/** And after something has gone wrong. */
const REST_MS = 1000;
/** Datagrams that one controller is told in a turn: a whole session goes over a second, and none is lost on the way. */
const MOST_DATAGRAMS = 4;
/** Controllers that are told anything at one time. */
const MOST_CONTROLLERS = 32;
/** Addresses that patterns of one turn may mean together. */
const MOST_MEANT = 10_000;

/** What even who may only listen may ask for. */
const FREE: ReadonlySet<OscDone['type']> = new Set(['subscribe', 'unsubscribe', 'pair', 'bank'] as const);

/** What a controller may do: nothing, hear, move as well, or take back what others have done too, whatever it was. */
export type OscRight = 'none' | 'listen' | 'move' | 'all';

export interface OscOptions {
  readonly live: Live;
  readonly keep: Keep;
  /** @throws Refusal `unknown` */
  readonly read: (idOrName: string) => Promise<KeptSession>;
  /** The session that was opened last. */
  readonly latest: () => Promise<string | null>;
  readonly right: (address: string) => OscRight;
  /** Lets a machine in by a code. @returns what it may do from now on @throws Refusal */
  readonly pair: (address: string, code: string) => Promise<OscRight>;
}

/** Steers the session from controllers that speak OSC over UDP: see docs/osc.md. */
export class Osc {
  private socket: Socket | null = null;
  private host = '127.0.0.1';
  private timer: NodeJS.Timeout | null = null;
  private busy = false;
  /** The session as it is in this turn. */
  private session: Session | null = null;
  private readonly controllers = new Map<string, Controller>();
  private readonly intake = new Intake(
    () => this.soon(),
    (from, address, why) => this.refuse(from, address, why),
  );
  private readonly steered: Steered;
  private readonly gestures: Gestures;

  constructor(private readonly options: OscOptions) {
    const { live, keep, read, latest } = options;
    this.steered = new Steered(live, read, latest);
    const { steered } = this;
    this.gestures = new Gestures({
      session: () => steered.id ?? '',
      live(session, gesture, commands) {
        if (session === steered.id) steered.move(gesture, commands);
        live.hand(session, 'osc', gesture, commands);
      },
      linked: (commands) => (steered.base ? withLinks(steered.base, commands) : commands),
      async base(session) {
        if (session === steered.id) await steered.session();
        // Another may be steered by now: what was moved is kept where it was moved.
        if (session === steered.id && steered.base)
          return { document: steered.base, revision: steered.revision };
        return read(session);
      },
      keep: (session, request) => keep(session, { kind: 'edit', ...request }),
      stale(session) {
        if (session === steered.id) steered.forget();
      },
      refused: (client, error) => {
        const controller = this.controllers.get(client);
        if (controller) this.refuse(controller, '', (error as Error).message);
      },
    });
  }

  /** The port that it listens on; null while it is off. */
  get port(): number | null {
    return this.socket?.address().port ?? null;
  }
  state(): OscState {
    const { taken, dropped, broken } = this.intake;
    const now = Date.now();
    return {
      on: this.socket !== null,
      host: this.host,
      port: this.port ?? 0,
      session: this.steered.now?.name ?? null,
      taken,
      dropped,
      broken,
      controllers: [...this.controllers.values()]
        .filter((c) => !c.lapsed(now))
        .map((c) => ({
          address: c.address,
          port: c.port,
          subscribed: c.telling !== null,
          messages: c.count,
          last: c.last,
          ago: Math.round((now - c.heard) / 1000),
        })),
    };
  }

  /** Begins to listen. @throws Refusal `in-use` where the port is taken */
  async open(host: string, port: number): Promise<void> {
    await this.close();
    const socket = createSocket({ type: host.includes(':') ? 'udp6' : 'udp4', recvBufferSize: 1 << 20 });
    await new Promise<void>((done, fail) => {
      socket.once('error', fail);
      socket.bind(port, host, () => {
        socket.off('error', fail);
        done();
      });
    }).catch((error: NodeJS.ErrnoException) => {
      throw new Refusal(
        'in-use',
        error.code === 'EADDRINUSE'
          ? `Another program listens on port ${port}. Choose another, from 1024 to 65535.`
          : `OSC cannot be switched on: ${error.message}`,
      );
    });
    socket.on('error', (err) => log.warn({ err }, "OSC's socket failed."));
    socket.on('message', (bytes, from) => this.intake.packet(bytes, from));
    this.socket = socket;
    this.host = host;
  }
  /** Keeps what is under way, and listens no more. */
  async close(): Promise<void> {
    const { socket } = this;
    this.socket = null;
    if (this.timer) clearTimeout(this.timer);
    this.timer = null;
    this.intake.clear();
    await this.gestures.settle(true);
    this.controllers.clear();
    if (socket) await new Promise<void>((done) => socket.close(() => done()));
  }
  /** Ends it for good. */
  async end(): Promise<void> {
    await this.close();
    this.steered.unwatch();
  }

  private send(to: { readonly address: string; readonly port: number }, messages: readonly OscMessage[]) {
    if (!this.socket || messages.length === 0) return;
    const packet = messages.length === 1 ? messages[0]! : { at: null, elements: messages };
    this.socket.send(encodeOsc(packet), to.port, to.address);
  }
  private refuse(to: Pick<RemoteInfo, 'address' | 'port'>, address: string, why: string) {
    const controller = this.controllers.get(Controller.key(to));
    // Who has said nothing that is understood is a stranger: strangers are not answered.
    if (!controller?.mayBeTold(Date.now())) return;
    this.send({ address: controller.address, port: controller.tellPort }, [
      { address: '/refused', args: [address, why] },
    ]);
  }

  private soon(ms = TURN_MS) {
    this.timer ??= setTimeout(() => void this.turn(), ms);
  }
  /** One turn: what came is done in its order, what rested is kept, what changed is told. */
  private async turn(): Promise<void> {
    this.timer = null;
    if (this.busy) return;
    this.busy = true;
    let rest = TURN_MS;
    try {
      await this.dealWith(this.intake.turn());
    } catch (error) {
      log.error({ err: error }, 'Messages of a controller could not be dealt with.');
      // The database may be away: it is not asked a hundred times a second.
      rest = REST_MS;
    } finally {
      this.busy = false;
    }
    // As long as a hand moves or somebody is told, there is a next one.
    if (!this.socket) return;
    if (this.intake.waits || this.gestures.open || [...this.controllers.values()].some((c) => c.telling))
      this.soon(rest);
  }
  private async dealWith(all: readonly Heard[]) {
    this.session = await this.steered.session();
    const now = Date.now();
    let packet = -1;
    let meant = MOST_MEANT;
    for (const heard of all) {
      const right = this.options.right(heard.from.address);
      // Of a stranger nothing is heard but the code that lets it in.
      if (right === 'none' && heard.message.address !== '/pair') continue;
      if (heard.packet !== packet) this.gestures.apart();
      packet = heard.packet;
      const controller = this.controllerOf(heard.from, now);
      try {
        meant -= await this.obey(controller, heard.message, right, meant);
        controller.count++;
        controller.last = heard.message.address;
      } catch (error) {
        // One that goes wrong keeps no other from being done.
        const told = error instanceof Refusal || error instanceof TooMany || error instanceof BadRequest;
        if (!told) log.error({ err: error }, 'A message of a controller went wrong.');
        this.refuse(
          controller,
          heard.message.address,
          told ? error.message : 'This went wrong; the log of the server says why.',
        );
      }
    }
    this.gestures.tell();
    this.session = this.steered.now;
    void this.gestures.settle();
    for (const [key, c] of this.controllers) if (c.lapsed(now)) this.controllers.delete(key);
    if (this.session) this.tellAll();
  }
  private controllerOf(from: RemoteInfo, now: number): Controller {
    const key = Controller.key(from);
    let known = this.controllers.get(key);
    if (!known) {
      known = new Controller(from.address, from.port);
      if (this.controllers.size >= MOST_CONTROLLERS * 4) {
        // Who is told anything is not pushed out by strangers.
        const oldest = [...this.controllers]
          .filter(([, c]) => !c.telling)
          .sort(([, a], [, b]) => a.heard - b.heard)[0];
        if (oldest) this.controllers.delete(oldest[0]);
      }
      this.controllers.set(key, known);
    }
    known.heard = now;
    return known;
  }

  /** What a controller's addresses are looked up in; what was moved before in the same turn is in it. */
  private worldOf(controller: Controller): OscWorld {
    if (!this.session)
      throw new Refusal('unknown', 'There is no session yet: make one, or bring one in, in the page.');
    return { session: this.session, bank: controller.bank, transport: this.steered.transport };
  }
  /** @returns how many addresses it meant */
  private async obey(
    controller: Controller,
    { address, args }: OscMessage,
    right: OscRight,
    most: number,
  ): Promise<number> {
    const leaves = oscFind(oscRoot(this.worldOf(controller)), address, { most });
    if (leaves.length === 0)
      throw new Refusal('unknown', 'Nothing has this address. `/strip/*/name` asks for all strips.');
    for (const leaf of leaves) {
      // Without an argument an address that tells something is asked for it.
      if (args.length === 0 && leaf.tell)
        this.tell(controller, [{ address: leaf.address, args: [leaf.tell()] }]);
      else if (leaf.take) await this.takeAt(controller, leaf, args, right);
      else if (leaves.length === 1)
        throw new Refusal('range', 'What stands at this address is told, and cannot be set.');
    }
    return leaves.length;
  }
  private async takeAt(
    controller: Controller,
    leaf: OscLeaf,
    args: readonly OscArgument[],
    right: OscRight,
  ): Promise<void> {
    const world = this.worldOf(controller);
    // A pattern may mean two parameters of one insert: the second is set on what the first has made.
    const now = oscFind(oscRoot(world), leaf.address)[0] ?? leaf;
    const done = now.take!(args);
    if (!done) return;
    if (right === 'listen' && !FREE.has(done.type))
      throw new Refusal('in-use', 'This machine may listen, and move nothing: its role is set in the page.');
    if (done.type !== 'edit') return this.act(controller, done, right);
    this.session = apply(world.session, done.commands).session;
    this.gestures.move(Controller.key(controller), {
      ...done,
      anew(session) {
        const found = oscFind(oscRoot({ ...world, session }), leaf.address)[0]?.take?.(args);
        if (found?.type !== 'edit' || found.key !== done.key)
          throw new Refusal('unknown', `What \`${leaf.address}\` moved is not there any more.`);
        return found.commands;
      },
    });
    controller.moved(leaf.address, done.key, args[0]);
  }

  private async act(
    controller: Controller,
    done: Exclude<OscDone, { readonly type: 'edit' }>,
    right: OscRight,
  ) {
    const { steered } = this;
    const { live } = this.options;
    switch (done.type) {
      case 'play':
      case 'stop':
        return askPlayer(live, steered, done.type);
      case 'loop':
        if (steered.transport.looping !== done.on) askPlayer(live, steered, 'loop');
        return;
      case 'locate':
        return askPlayer(live, steered, 'locate', done.at);
      case 'undo':
      case 'redo':
        // What rests has been done before it.
        await this.gestures.settle(true);
        await takeStep(this.options.keep, steered, done.type, right === 'all' ? undefined : mayKeep('hands'));
        this.session = steered.now;
        return;
      case 'bank':
        controller.bank = done.bank;
        return;
      case 'open': {
        const { id } = await this.options.read(done.name);
        await this.gestures.settle(true);
        this.steered.open(id);
        this.session = await this.steered.session();
        return;
      }
      case 'subscribe': {
        const subscription = subscriptionOf(done.asked);
        if (
          !controller.telling &&
          [...this.controllers.values()].filter((c) => c.telling).length >= MOST_CONTROLLERS
        )
          throw new Refusal('size', `${MOST_CONTROLLERS} controllers are told already: let one go first.`);
        controller.subscribe(subscription);
        return this.tell(controller, [{ address: '/subscribed', args: [LAPSES_S] }]);
      }
      case 'unsubscribe':
        controller.telling = null;
        return;
      case 'pair': {
        const right = await this.options.pair(controller.address, done.code);
        return this.tell(controller, [{ address: '/paired', args: [right] }]);
      }
    }
  }
  private tell(controller: Controller, messages: readonly OscMessage[]) {
    this.send({ address: controller.address, port: controller.tellPort }, messages);
  }
  private tellAll() {
    for (const controller of this.controllers.values()) {
      const { telling } = controller;
      if (!telling || this.options.right(controller.address) === 'none') continue;
      const begun = performance.now();
      if (begun >= controller.nextLook) {
        try {
          telling.look(
            this.worldOf(controller),
            controller.moving(this.gestures.movedBy(Controller.key(controller))),
          );
        } catch (error) {
          controller.telling = null;
          this.refuse(controller, '/subscribe', (error as Error).message);
          continue;
        }
        // Who asks for a great deal is told less often, so that nobody else waits.
        controller.nextLook = begun + (performance.now() - begun) * 4;
      }
      for (let n = 0; n < MOST_DATAGRAMS; n++) {
        const messages = telling.next();
        if (messages.length === 0) break;
        this.tell(controller, messages);
      }
    }
  }
}
