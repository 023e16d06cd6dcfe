import { filledValue } from '../../session/fields/shape';
import { STRIP_ROLES } from '../keys/roles';
import { inputsOf, addressKey, CONTROL, filledProfile } from '../profile/profile';
import type {
  Control,
  EncoderControl,
  FaderControl,
  KeyControl,
  Steers,
  SurfaceProfile,
} from '../profile/profile';
import type { Found, Learned } from './learn';
import type { Reading, Tell } from './reading';
import type { Step } from './learn';

/** A control that is being decided on: as it will be, and what is known of how it was found. */
export interface Draft {
  /** What it says, by which it is known. */
  readonly key: string;
  readonly control: FaderControl | EncoderControl | KeyControl;
  readonly sure: number;
  readonly tells: readonly Tell[];
  readonly others: readonly Reading[];
  /** A later step in which it spoke again. */
  readonly again: number | null;
  /** Whether it is left out. */
  readonly out: boolean;
}
/** What was decided of a control by hand, beside what was heard. */
export interface Decision {
  readonly reading?: Pick<Reading, 'is' | 'coding' | 'toggles' | 'release'>;
  readonly kind?: 'fader' | 'encoder';
  readonly reversed?: boolean;
  readonly range?: { readonly low: number; readonly high: number } | null;
  readonly steers?: Steers | null;
  readonly key?: Pick<KeyControl, 'role' | 'action'>;
  readonly out?: boolean;
}

const PAN: Steers = { type: 'across', what: 'pan', nth: null, of: 'place', strip: null };
/** What keys do that nothing was said of, in the order in which they are pushed. (Common practice, no published source.) */
const KEYS = ['bankLeft', 'bankRight', 'play', 'stop'] as const;

const isDraft = (c: Control): c is Draft['control'] =>
  c.kind === 'fader' || c.kind === 'encoder' || c.kind === 'key';
const control = (written: object) => filledValue(CONTROL, written) as Draft['control'];

function drafted(f: Found, steps: readonly Step[], d: Decision, nth: number): Draft {
  const reading = { ...f, ...d.reading };
  const ask = steps[f.step]?.ask ?? 'any';
  const address = f.address;
  const common = { id: 'x', in: address, touch: f.touch };
  const moves = {
    ...common,
    reversed: d.reversed ?? false,
    range: d.range !== undefined ? d.range : f.range,
  };
  const kind =
    reading.is === 'key'
      ? 'key'
      : reading.is === 'turn'
        ? 'encoder'
        : (d.kind ?? (ask === 'knobs' ? 'encoder' : 'fader'));
  const steers = d.steers !== undefined ? d.steers : kind === 'encoder' && ask === 'knobs' ? PAN : null;
  const made =
    kind === 'key'
      ? {
          id: 'x',
          kind,
          in: address,
          position: null,
          toggles: reading.toggles,
          release: reading.release,
          ...(d.key ?? {
            role: (ask === 'keys' && KEYS[nth]) || 'user',
            action: null,
          }),
        }
      : kind === 'fader'
        ? { ...moves, kind, position: 0, steers }
        : {
            ...moves,
            kind,
            position: 0,
            coding: reading.is === 'turn' ? reading.coding : 'position',
            steers,
          };
  return {
    key: f.key,
    control: control(made),
    sure: d.reading ? 1 : f.sure,
    tells: f.tells,
    others: f.others,
    again: f.again,
    out: d.out ?? false,
  };
}

/** What was found, with what was decided of it, in the order in which it was moved. @param decided by what each says */
export function draftsFrom(
  learned: Learned,
  steps: readonly Step[],
  decided: Readonly<Record<string, Decision>>,
): readonly Draft[] {
  const keysOf = new Map<number, number>();
  return learned.found.map((f) => {
    const decision = decided[f.key] ?? {};
    const isKey = (decision.reading?.is ?? f.is) === 'key' && !decision.out;
    const nth = keysOf.get(f.step) ?? 0;
    if (isKey) keysOf.set(f.step, nth + 1);
    return drafted(f, steps, decision, nth);
  });
}

/** The controls of a profile as drafts, of which nothing is in doubt. */
export const draftsOf = (profile: SurfaceProfile): readonly Draft[] =>
  profile.controls.filter(isDraft).map((c) => ({
    key: addressKey(c.in),
    control: c,
    sure: 1,
    tells: [],
    others: [],
    again: null,
    out: false,
  }));
/** A draft with something else decided. */
export function redrafted(draft: Draft, d: Decision): Draft {
  const { control: c } = draft;
  const was: Reading['is'] =
    c.kind === 'key' ? 'key' : c.kind === 'encoder' && c.coding !== 'position' ? 'turn' : 'position';
  const is = d.reading?.is ?? was;
  const common = { id: c.id, in: c.in, place: c.place };
  let next: Draft['control'];
  if (is === 'key') {
    const from =
      c.kind === 'key' ? c : { ...common, kind: 'key', position: null, role: 'user', action: null };
    const { toggles, release } = d.reading ?? {};
    next = control({ ...from, ...(d.reading ? { toggles, release } : {}), ...d.key });
  } else {
    const kind = is === 'turn' ? 'encoder' : (d.kind ?? (c.kind === 'encoder' ? 'encoder' : 'fader'));
    const from = c.kind === 'key' ? { ...common, position: 0, steers: null } : c;
    next = control({
      ...from,
      kind,
      ...(kind === 'encoder'
        ? { coding: d.reading?.coding ?? (c.kind === 'encoder' ? c.coding : 'position') }
        : {}),
      ...(d.reversed === undefined ? {} : { reversed: d.reversed }),
      ...(d.range === undefined ? {} : { range: d.range }),
      ...(d.steers === undefined ? {} : { steers: d.steers }),
    });
  }
  return { ...draft, control: next, out: d.out ?? draft.out };
}

/** Two controls that say the same, so that they cannot be told apart: the first of them by the second. */
export function clashesOf(drafts: readonly Draft[]): ReadonlyMap<string, string> {
  const said = new Map<string, string>();
  const clashes = new Map<string, string>();
  for (const { key, control: c, out } of drafts) {
    if (out) continue;
    for (const [, address] of inputsOf(c)) {
      const mine = addressKey(address);
      const other = said.get(mine);
      if (other !== undefined && other !== key) clashes.set(key, other);
      said.set(mine, key);
    }
  }
  return clashes;
}

const atPlace = (c: FaderControl) => c.steers === null || c.steers.of === 'place';
const NAMES = { fader: 'fader', encoder: 'knob', key: 'key' } as const;

/**
 * The profile of a device that was learned. Faders stand in the window in their order; those that always do one thing elsewhere stand
 * behind it. Keys of strips take the strips in their order, those that nothing was said of are user keys.
 * @param rest what else the device has: displays, meters, lights; with any of these nothing changes its place
 */
export function profileFrom(
  drafts: readonly Draft[],
  { id, name, pickup = 'catch' }: { id: string; name: string; pickup?: SurfaceProfile['pickup'] },
  rest: Pick<SurfaceProfile, 'width' | 'size' | 'controls'> | null = null,
): SurfaceProfile {
  const kept = drafts.filter((d) => !d.out).map((d) => d.control);
  const others = rest?.controls.filter((c) => !isDraft(c)) ?? [];
  const fixed = others.length > 0 || kept.some((c) => c.place);
  const width = fixed && rest ? rest.width : kept.filter((c) => c.kind === 'fader' && atPlace(c)).length;
  const counts = new Map<string, number>();
  const next = (what: string) => {
    const n = counts.get(what) ?? 0;
    counts.set(what, n + 1);
    return n;
  };
  const users = new Set(kept.flatMap((c) => (c.kind === 'key' && c.role === 'user' ? [c.user] : [])));
  const user = () => {
    let n = 1;
    while (users.has(n)) n++;
    users.add(n);
    return n;
  };
  const controls = kept.map((c): Control => {
    const named = { id: `${NAMES[c.kind]}${next(c.kind) + 1}` };
    if (c.kind === 'key') {
      const ofStrip = (STRIP_ROLES as readonly string[]).includes(c.role);
      return {
        ...c,
        ...(fixed ? {} : named),
        position: ofStrip ? (fixed && c.position !== null ? c.position : next(`key ${c.role}`)) : null,
        user: c.role === 'user' ? (c.user ?? user()) : null,
        action: c.role === 'action' ? c.action : null,
      };
    }
    if (fixed) return c;
    if (c.kind === 'encoder') return { ...c, ...named, position: next('encoder place'), row: 0 };
    return {
      ...c,
      ...named,
      position: atPlace(c) ? next('fader place') : width + next('fader behind'),
    };
  });
  return {
    ...filledProfile({
      format: 'zonula-surface',
      version: 2,
      id,
      name,
      width,
      pickup,
      size: fixed ? (rest?.size ?? null) : null,
      controls: [...controls, ...others],
    }),
  };
}

const onChannelOf = <A extends { readonly channel: number } | null>(address: A, channel: number): A =>
  address && { ...address, channel };
/** The same controls on another channel: for a second device of the kind. */
export const onChannel = (drafts: readonly Draft[], channel: number): readonly Draft[] =>
  drafts.map((d) => {
    const { control: c } = d;
    const moved = { ...c, in: onChannelOf(c.in, channel) };
    const next = moved.kind === 'key' ? moved : { ...moved, touch: onChannelOf(moved.touch, channel) };
    return {
      ...d,
      key: addressKey(next.in),
      control: next.kind === 'encoder' ? { ...next, push: onChannelOf(next.push, channel) } : next,
    };
  });
