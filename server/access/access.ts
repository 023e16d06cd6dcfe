import { randomBytes, randomInt, randomUUID, timingSafeEqual } from 'node:crypto';
import { RateLimiterMemory, RateLimiterRes } from 'rate-limiter-flexible';
import { Refusal } from '../../core/base/refusal';
import type { Role } from '../../core/base/role';
import { keepable } from '../../core/base/text';
import { DeviceRow, SettingRow } from '../database/models';
import { log } from '../log';

/** Minutes for which a code lets machines in. */
export const CODE_MINUTES = 10;
/** Wrong codes after which a code is of no use any more, whoever tried; with a million codes, one in fifty thousand finds it. */
export const MOST_WRONG = 20;
/** Tries of one address in a minute, and of all together: addresses can be forged. */
export const MOST_TRIES = 5;
const MOST_OF_ALL = 60;
const LETTERS = 60;
/** Milliseconds after which it is written down anew that a device was seen. */
const SEEN_MS = 60_000;

/** A machine that was let in. */
export interface Device {
  readonly id: string;
  readonly name: string;
  readonly role: Role;
  /** Of a controller that speaks OSC. */
  readonly address: string | null;
  readonly seenAt: Date;
}
export interface PairingCode {
  readonly code: string;
  readonly role: Role;
  /** Milliseconds since 1970. */
  readonly until: number;
}

/** Too many tries: when the next may be made. */
export class TooMany extends Error {
  constructor(readonly seconds: number) {
    super(`Too many codes were tried from here. Try again in ${seconds} seconds.`);
  }
}

/** Who is let in from other machines, by a code that the page of this one shows. */
export class Access {
  /** Resolves when it is known who was let in before. */
  readonly ready: Promise<void>;
  private readonly devices = new Map<string, Device>();
  private current: (PairingCode & { wrong: number }) | null = null;
  private readonly tries: RateLimiterMemory;
  private readonly all: RateLimiterMemory;
  private readonly left = new Set<(id: string) => void>();
  /** By what cookies are signed. */
  keys: readonly string[] = [];

  constructor(
    private readonly now: () => number = Date.now,
    read = true,
  ) {
    this.tries = new RateLimiterMemory({ points: MOST_TRIES, duration: 60 });
    this.all = new RateLimiterMemory({ points: MOST_OF_ALL, duration: 60 });
    this.ready = read ? this.load() : Promise.resolve();
    // Where the database is away it is said by whatever asks next.
    this.ready.catch((err: unknown) => log.warn({ err }, 'Who was let in could not be read.'));
  }
  private async load() {
    // Made once, and kept: who was let in stays so when the server starts anew.
    const fresh = { keys: [randomBytes(32).toString('hex')] };
    const [row] = await SettingRow.findOrCreate({
      where: { name: 'secret' },
      defaults: { name: 'secret', value: fresh },
    });
    this.keys = (row.value as typeof fresh).keys;
    for (const r of await DeviceRow.findAll()) this.devices.set(r.id, deviceOf(r));
  }

  /** The code that lets machines in now; null where there is none. */
  get code(): PairingCode | null {
    if (this.current && this.now() >= this.current.until) this.current = null;
    return this.current && { code: this.current.code, role: this.current.role, until: this.current.until };
  }
  /** Shows a new code; the one before is of no use any more. */
  newCode(role: Role): PairingCode {
    const code = String(randomInt(1_000_000)).padStart(6, '0');
    this.current = { code, role, until: this.now() + CODE_MINUTES * 60_000, wrong: 0 };
    return this.code!;
  }
  endCode(): void {
    this.current = null;
  }

  /**
   * Lets a machine in.
   * @param from its address: so often it may try
   * @param osc whether it is a controller, known from now on by its address
   * @throws Refusal for a wrong code; TooMany
   */
  async pair(from: string, code: string, name: string, osc = false): Promise<Device> {
    await this.ready;
    try {
      await this.all.consume('all');
      await this.tries.consume(from);
    } catch (error) {
      if (!(error instanceof RateLimiterRes)) throw error;
      // Once for each minute: what floods does not fill the log.
      if (error.consumedPoints === MOST_TRIES + 1 || error.consumedPoints === MOST_OF_ALL + 1)
        log.warn({ from }, 'Too many codes were tried.');
      throw new TooMany(Math.ceil(error.msBeforeNext / 1000));
    }
    const shown = this.code;
    if (!shown || !same(code.replace(/[^\d]/g, ''), shown.code)) {
      if (this.current && ++this.current.wrong >= MOST_WRONG) this.current = null;
      log.warn({ from, codes: shown ? 'shown' : 'none' }, 'A wrong code was tried.');
      throw new Refusal(
        'in-use',
        'That is not the code. It stands on the page of the machine that runs Zonula, under “Other machines”, for ten minutes.',
      );
    }
    const row = {
      id: randomUUID(),
      name: keepable(name.trim(), LETTERS) || (osc ? `OSC at ${from}` : 'A device'),
      role: shown.role,
      address: osc ? from : null,
    };
    // One address is one controller.
    if (osc) for (const d of this.devices.values()) if (d.address === from) await this.remove(d.id);
    await DeviceRow.create(row);
    const device = { ...row, seenAt: new Date(this.now()) };
    this.devices.set(row.id, device);
    await this.tries.delete(from);
    log.warn({ from, role: row.role }, 'A machine was let in.');
    return device;
  }
  list(): readonly Device[] {
    return [...this.devices.values()].sort((a, b) => a.name.localeCompare(b.name));
  }
  /** @returns null for a machine that was not let in, or was taken off */
  find(id: unknown): Device | null {
    const device = typeof id === 'string' ? (this.devices.get(id) ?? null) : null;
    if (device && this.now() - device.seenAt.getTime() > SEEN_MS) this.seen(device);
    return device;
  }
  private seen(device: Device) {
    const seenAt = new Date(this.now());
    this.devices.set(device.id, { ...device, seenAt });
    DeviceRow.update({ seenAt }, { where: { id: device.id } }).catch(() => {});
  }
  /** The controller that speaks from an address. */
  at(address: string): Device | null {
    const found = [...this.devices.values()].find((d) => d.address === address);
    return found ? this.find(found.id) : null;
  }
  /** @throws Refusal `unknown` */
  async change(id: string, patch: { readonly name?: string; readonly role?: Role }): Promise<Device> {
    const device = this.devices.get(id);
    if (!device) throw gone(id);
    const name = patch.name === undefined ? device.name : keepable(patch.name.trim(), LETTERS) || device.name;
    const next = { ...device, name, role: patch.role ?? device.role };
    await DeviceRow.update({ name: next.name, role: next.role }, { where: { id } });
    this.devices.set(id, next);
    // What it holds open was opened with its role of before.
    if (next.role !== device.role) for (const tell of this.left) tell(id);
    log.warn({ role: next.role }, 'The role of a machine was changed.');
    return next;
  }
  /** Takes a machine off: from now on it is a stranger. @throws Refusal `unknown` */
  async remove(id: string): Promise<void> {
    if (!this.devices.has(id)) throw gone(id);
    this.devices.delete(id);
    await DeviceRow.destroy({ where: { id } });
    for (const tell of this.left) tell(id);
    log.warn('A machine was taken off.');
  }
  /** Told of who was taken off, or whose role has changed. */
  onLeft(tell: (id: string) => void): void {
    this.left.add(tell);
  }
}

const gone = (id: string) =>
  new Refusal('unknown', 'There is no such device any more: it was taken off.', [id]);
const deviceOf = ({ id, name, role, address, seenAt }: DeviceRow): Device => ({
  id,
  name,
  role,
  address,
  seenAt,
});
/** Compares in the same time however much of it is right. */
const same = (a: string, b: string) =>
  a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));
