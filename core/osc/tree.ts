import { Refusal } from '../base/refusal';
import type { Id } from '../base/units';
import { nameOf } from '../session/lookup';
import type { Session, Strip } from '../session/types';
import { deskOrder, fadedOf, isVca, type Faded } from '../surface/faded';
import type { OscArgument } from '../wire/osc';
import { isBranch, type OscBranch, type OscDone, type OscLeaf, type OscNode, type OscWorld } from './address';
import {
  controlLeaves,
  insertControlsOf,
  SEND,
  STRIP,
  STRIP_ALONE,
  TEXT,
  TRAVEL,
  VALUE,
  type Steered,
} from './controls';
import { oscNames } from './names';
import { isPattern, partMatcher } from './pattern';

/*
 * The address space: a tree of names over a session. What lies at an address is looked up when it is asked for.
 */

/** Faders of a controller that has not said how many it has. */
export const BANK_SIZE = 8;
/** Faders of a controller at most. */
export const MOST_IN_BANK = 64;

const branch = (children: Readonly<Record<string, () => OscNode | undefined>>): OscBranch => ({
  names: () => Object.keys(children).map((name) => [name]),
  find: (name) => (Object.hasOwn(children, name) ? children[name]!() : undefined),
});
/** Things by number from 1, and by name: each stands at the address by which it was asked for. */
const numbered = (names: readonly string[], at: (i: number, as: string) => OscNode): OscBranch => ({
  names: () => names.map((name, i) => (name === '' ? [String(i + 1)] : [String(i + 1), name])),
  find(name) {
    const i = /^[1-9]\d{0,5}$/.test(name) ? Number(name) - 1 : name === '' ? -1 : names.indexOf(name);
    return i >= 0 && i < names.length ? at(i, name) : undefined;
  },
});
/** What is told, and cannot be set. */
const told = (
  address: string,
  [holds, about]: readonly [holds: string, about: string],
  from: object | null,
  tell: () => OscArgument,
): OscLeaf => ({ address, about, holds, from, tell });

/** Controls of a thing: each a leaf of its own, with what lies under it. */
function controlsAt<T>(
  address: string,
  from: object,
  list: readonly Steered<T>[],
  thing: T,
): Record<string, () => OscNode | undefined> {
  return Object.fromEntries(
    list.map((c) => [
      c.id,
      () => {
        if (c.of(thing) === null) return undefined;
        const leaves = controlLeaves(`${address}/${c.id}`, from, c, () => c.of(thing));
        // It is told and taken itself, and has others under it.
        return {
          ...leaves[VALUE],
          names: () => [[TRAVEL], [TEXT]],
          find: (name: string) => (name === TRAVEL || name === TEXT ? leaves[name] : undefined),
        };
      },
    ]),
  );
}

const sendsAt = (address: string, session: Session, strip: Strip): OscBranch =>
  numbered(oscNames(strip.sends.map((x) => nameOf(session, x.to))), (i, as) => {
    const at = `${address}/${as}`;
    const send = strip.sends[i]!;
    return branch({
      ...controlsAt(at, send, SEND, { session, strip, send }),
      name: () => told(`${at}/name`, ['text', 'Where it leads.'], session, () => nameOf(session, send.to)),
      tap: () =>
        told(
          `${at}/tap`,
          ['text', 'Where it is taken: `input`, `pre` or `post` the fader.'],
          send,
          () => send.tap,
        ),
    });
  });
const insertsAt = (address: string, strip: Strip): OscBranch =>
  numbered(oscNames(strip.inserts.map((i) => i.type)), (i, as) => {
    const at = `${address}/${as}`;
    const insert = strip.inserts[i]!;
    return branch({
      ...controlsAt(at, insert, insertControlsOf(insert.type), { strip, insert }),
      type: () => told(`${at}/type`, ['text', 'The processor.'], insert, () => insert.type),
    });
  });

const NAME = ['text', 'Its name.'] as const;
function fadedAt(address: string, session: Session, f: Faded): OscBranch {
  const own = {
    ...controlsAt(address, f, STRIP, f),
    name: () => told(`${address}/name`, NAME, f, () => f.name || f.id),
    colour: () => told(`${address}/colour`, ['text', 'Its colour, as `#rrggbb`.'], f, () => f.colour),
    icon: () => told(`${address}/icon`, ['text', 'Its icon, by name; `none`.'], f, () => f.icon),
  };
  if (isVca(f)) return branch(own);
  return branch({
    ...own,
    ...controlsAt(address, f, STRIP_ALONE, f),
    kind: () =>
      told(`${address}/kind`, ['text', '`source`, `submix`, `return` or `output`.'], f, () => f.kind),
    send: () => sendsAt(`${address}/send`, session, f),
    insert: () => insertsAt(`${address}/insert`, f),
  });
}
const named = (all: readonly { readonly name: string; readonly id: Id }[]) =>
  oscNames(all.map((x) => x.name || x.id));

/** An action: done by a message without an argument, or by one that says yes, as a key that is let go says no. */
const action = (address: string, about: string, done: OscDone): OscLeaf => ({
  address,
  about,
  holds: 'nothing, or T; a key that is let go says F or 0',
  from: null,
  take([given]) {
    const pressed =
      given === undefined || given === null || (typeof given === 'number' ? given >= 0.5 : given !== false);
    return pressed ? done : null;
  },
});
const wholeFrom = (address: string, given: OscArgument | undefined, least: number, most: number): number => {
  if (typeof given !== 'number' || Number.isNaN(given))
    throw new Refusal('range', `\`${address}\` takes a number from ${least} to ${most}.`);
  return Math.max(least, Math.min(most, Math.round(given)));
};

/** Where a bank begins after so many steps of its own size: it never ends before the last. */
function stepped({ session, bank }: OscWorld, steps: number) {
  const count = deskOrder(session).length;
  const last = Math.floor(Math.max(0, count - 1) / bank.size) * bank.size;
  return { ...bank, first: Math.max(0, Math.min(last, bank.first + steps * bank.size)) };
}

function bankAt(world: OscWorld): OscBranch {
  const { session, bank } = world;
  const order = deskOrder(session);
  const lies = (i: number) => fadedOf(session, order[bank.first + i]);
  const places = numbered(
    Array.from({ length: bank.size }, () => ''),
    (i) => {
      const at = `/bank/${i + 1}`;
      const f = lies(i);
      // Where nothing lies, that is told, so that a display is emptied.
      return f
        ? fadedAt(at, session, f)
        : branch({ name: () => told(`${at}/name`, NAME, session, () => '') });
    },
  );
  const first = '/bank/first';
  const size = '/bank/size';
  const own: Record<string, () => OscNode> = {
    left: () => action('/bank/left', 'The bank before.', { type: 'bank', bank: stepped(world, -1) }),
    right: () => action('/bank/right', 'The next bank.', { type: 'bank', bank: stepped(world, 1) }),
    first: () => ({
      address: first,
      about: 'What lies under its first fader, counted from 1.',
      holds: 'number',
      from: bank,
      tell: () => bank.first + 1,
      take: ([given]) => ({
        type: 'bank',
        bank: { ...bank, first: wholeFrom(first, given, 1, Math.max(1, order.length)) - 1 },
      }),
    }),
    size: () => ({
      address: size,
      about: 'How many faders this controller has.',
      holds: `number from 1 to ${MOST_IN_BANK}; ${BANK_SIZE} until it is said`,
      from: bank,
      tell: () => bank.size,
      take: ([given]) => ({
        type: 'bank',
        bank: { ...bank, size: wholeFrom(size, given, 1, MOST_IN_BANK) },
      }),
    }),
    total: () =>
      told(
        '/bank/total',
        ['number', 'Strips and VCAs that can lie under faders.'],
        session,
        () => order.length,
      ),
  };
  return {
    names: () => [...places.names(), ...Object.keys(own).map((name) => [name])],
    find: (name) => (Object.hasOwn(own, name) ? own[name]!() : places.find(name)),
  };
}

function transportAt({ transport }: OscWorld): OscBranch {
  const at = (name: string) => `/transport/${name}`;
  return branch({
    play: () => action(at('play'), 'Plays, in the window that plays.', { type: 'play' }),
    stop: () => action(at('stop'), 'Stops.', { type: 'stop' }),
    locate: () => ({
      address: at('locate'),
      about: 'Goes to a place.',
      holds: 'seconds of the song',
      from: null,
      take([given]) {
        if (typeof given !== 'number' || !(given >= 0 && given <= 360_000))
          throw new Refusal('range', '`/transport/locate` takes seconds of the song, from 0.');
        return { type: 'locate', at: Number(given.toPrecision(7)) };
      },
    }),
    loop: () => ({
      address: at('loop'),
      about: 'Whether it loops.',
      holds: 'T or F',
      from: transport,
      tell: () => transport.looping,
      take: ([given]) => ({
        type: 'loop',
        on: given !== false && given !== 0 && given !== null,
      }),
    }),
    rolling: () => told(at('rolling'), ['T or F', 'Whether it plays.'], transport, () => transport.rolling),
    position: () =>
      told(at('position'), ['seconds of the song', 'Where it stands.'], transport, () =>
        Math.fround(transport.position),
      ),
    there: () =>
      told(
        at('there'),
        ['T or F', 'Whether a window has the session open that can play.'],
        transport,
        () => transport.there,
      ),
  });
}

/** All addresses, over a world as it is now. */
export const oscRoot = (world: OscWorld): OscBranch => {
  const { session } = world;
  return branch({
    strip: () =>
      numbered(named(session.strips), (i, as) => fadedAt(`/strip/${as}`, session, session.strips[i]!)),
    vca: () => numbered(named(session.vcas), (i, as) => fadedAt(`/vca/${as}`, session, session.vcas[i]!)),
    bank: () => bankAt(world),
    transport: () => transportAt(world),
    session: () =>
      branch({
        name: () =>
          told('/session/name', ['text', 'The session that is steered.'], session, () => session.name),
        strips: () =>
          told('/session/strips', ['number', 'Its strips.'], session, () => session.strips.length),
        vcas: () => told('/session/vcas', ['number', 'Its VCAs.'], session, () => session.vcas.length),
        open: () => ({
          address: '/session/open',
          about: 'Steers another session, by its name.',
          holds: 'text',
          from: null,
          take([given]) {
            if (typeof given !== 'string' || !given)
              throw new Refusal('range', '`/session/open` takes the name of a session.');
            return { type: 'open', name: given };
          },
        }),
      }),
    undo: () => action('/undo', 'Takes the last edit of the session back.', { type: 'undo' }),
    redo: () => action('/redo', 'Does it again.', { type: 'redo' }),
    subscribe: () => ({
      address: '/subscribe',
      about: 'Has what changes told to this controller.',
      holds: 'see below',
      from: null,
      take: (asked) => ({ type: 'subscribe', asked }),
    }),
    unsubscribe: () => action('/unsubscribe', 'Tells this controller no more.', { type: 'unsubscribe' }),
    pair: () => ({
      address: '/pair',
      about: 'Lets this machine in by the code that the page shows.',
      holds: 'six digits',
      from: null,
      take([given]) {
        const code = typeof given === 'number' ? String(given).padStart(6, '0') : given;
        if (typeof code !== 'string')
          throw new Refusal('range', '`/pair` takes the code that the page shows.');
        return { type: 'pair', code };
      },
    }),
  });
};

const isLeaf = (n: OscNode): n is OscLeaf => 'address' in n;

/** Leaves that one pattern may mean at most. */
export const MOST_MEANT = 4000;
const LONGEST = 400;

/**
 * What an address, or a pattern of addresses, means.
 * @param byName whether what a pattern means is given by names, where it has any, and not by numbers
 * @returns leaves, each once; none where nothing has that name
 * @throws Refusal `format` for a pattern that is none; `size` for one that means more than 4,000
 */
export function oscFind(
  root: OscBranch,
  address: string,
  { most = MOST_MEANT, byName = false } = {},
): readonly OscLeaf[] {
  if (address.length > LONGEST)
    throw new Refusal('size', `An address of more than ${LONGEST} characters is none here.`);
  const parts = address.split('/').slice(1);
  let nodes: OscNode[] = [root];
  for (const part of parts) {
    if (!isPattern(part)) {
      nodes = nodes.flatMap((n) => (isBranch(n) ? (n.find(part) ?? []) : []));
      continue;
    }
    const matches = partMatcher(part);
    if (!matches) throw new Refusal('format', `In \`${address}\` a bracket is open.`);
    nodes = nodes.flatMap((n) =>
      isBranch(n)
        ? n
            .names()
            .filter((all) => all.some(matches))
            .flatMap((all) => n.find(byName ? all.at(-1)! : all[0]!) ?? [])
        : [],
    );
    if (nodes.length > most)
      throw new Refusal('size', `\`${address}\` means more than ${most} addresses: ask for fewer.`);
  }
  return nodes.filter(isLeaf);
}
