import { insertControl } from '../session/controls';
import { checkCounts } from './counts';
import { vcaLoop } from '../groups/vca';
import { processorOf } from '../processors/registry';
import { signalOrder } from '../session/order';
import { Refusal } from '../base/refusal';
import type { Insert, Lanes, Session, Strip, Vca } from '../session/types';
import type { Id } from '../base/units';

const isStrip = (kind: string | undefined) => kind !== undefined && kind !== 'VCA' && kind !== 'link';

/** What was looked at and found in order; documents share what an edit leaves alone. */
const inOrder = new WeakSet<object>();

/** Times of a lane do not go back. */
function checkLanes(lanes: Lanes, where: string, owner: Id): void {
  if (inOrder.has(lanes)) return;
  for (const [control, lane] of Object.entries(lanes))
    for (let i = 1; i < lane.length; i++)
      if (lane[i]![0] < lane[i - 1]![0])
        throw new Refusal('range', `The lane \`${control}\` of ${where} goes back in time.`, [owner]);
  inOrder.add(lanes);
}

/** An insert has no parameters but those of its processor, each within its range. */
function checkParameters(insert: Insert, strip: Id): void {
  if (inOrder.has(insert)) return;
  const { id, type, params } = insert;
  const { name, parameters } = processorOf(type);
  for (const [key, value] of Object.entries(params)) {
    const known = parameters.find((p) => p.id === key);
    if (!known)
      throw new Refusal('unknown', `The ${name} \`${id}\` of \`${strip}\` has no \`${key}\`.`, [strip, id]);
    if (!(value >= known.min && value <= known.max))
      throw new Refusal(
        'range',
        `\`${key}\` of \`${id}\` in \`${strip}\` is ${value}: it reaches from ${known.min} to ${known.max}.`,
        [strip, id],
      );
  }
  inOrder.add(insert);
}

/** The lanes of an insert move what automation can move in its processor, within its range. */
function checkInsertLanes(i: Insert, strip: Id): void {
  for (const [control, lane] of Object.entries(i.lanes)) {
    const found = insertControl(i.type, control);
    if (!found)
      throw new Refusal(
        'unknown',
        `The ${processorOf(i.type).name} \`${i.id}\` of \`${strip}\` has no \`${control}\` that automation can move.`,
        [strip, i.id],
      );
    const wrong = lane.find(
      ([, v]) => v === null || v < found.min || v > found.max || (found.stepped && v % 1),
    );
    if (wrong)
      throw new Refusal(
        'range',
        `The lane \`${control}\` of \`${i.id}\` in \`${strip}\` goes to ${wrong[1]}: it reaches from ${found.min} to ${found.max}.`,
        [strip, i.id],
      );
  }
}

/** The rules that a strip keeps to or breaks by itself. */
function checkStrip(s: Strip): void {
  if (inOrder.has(s)) return;
  checkLanes(s.lanes, `\`${s.name || s.id}\``, s.id);
  for (const x of s.sends) checkLanes(x.lanes, `the send \`${x.id}\` of \`${s.name || s.id}\``, s.id);
  for (const i of s.inserts) {
    checkLanes(i.lanes, `the insert \`${i.id}\` of \`${s.name || s.id}\``, s.id);
    checkParameters(i, s.id);
    checkInsertLanes(i, s.id);
  }
  inOrder.add(s);
}
const checkVca = (v: Vca): void => checkLanes(v.lanes, `the VCA \`${v.name || v.id}\``, v.id);

/**
 * The rules that things keep to by themselves, held against those that are others than before.
 * @throws Refusal naming the rule and the thing
 */
export function checkThings(session: Session, before: Session): void {
  session.strips.forEach((s, i) => s !== before.strips[i] && checkStrip(s));
  session.vcas.forEach((v, i) => v !== before.vcas[i] && checkVca(v));
}

/**
 * The rules that hold in every session: no list is longer than a document may have it; ids are one of a kind; what is named exists; sources take no signal; outs and
 * sends end in a submix, a return or an output; nothing feeds itself, and no VCA holds itself.
 * @throws Refusal naming the rule and the thing
 */
export function checkSession(session: Session): void {
  checkCounts(session);
  const kinds = new Map<Id, string>();
  const claim = (id: Id, what: string) => {
    if (kinds.has(id))
      throw new Refusal(
        'duplicate',
        `The id \`${id}\` stands twice: as a ${kinds.get(id)} and as a ${what}.`,
        [id],
      );
    kinds.set(id, what);
  };
  for (const s of session.strips) claim(s.id, s.kind);
  for (const v of session.vcas) claim(v.id, 'VCA');
  for (const l of session.links) claim(l.id, 'link');
  const takesSignal = (id: Id, by: string, from: Id) => {
    const kind = kinds.get(id);
    if (!isStrip(kind))
      throw new Refusal('dangling', `${by} of \`${from}\` leads to \`${id}\`, and there is no such strip.`, [
        from,
        id,
      ]);
    if (kind === 'source')
      throw new Refusal(
        'kind',
        `${by} of \`${from}\` leads to \`${id}\`, a source: sources take no signal.`,
        [from, id],
      );
  };
  const preamps = new Map<number, string>();
  for (const s of session.strips) {
    const own = new Set<Id>();
    const claimOwn = (id: Id, what: string) => {
      if (own.has(id))
        throw new Refusal('duplicate', `The ${what} id \`${id}\` stands twice in \`${s.id}\`.`, [s.id, id]);
      own.add(id);
    };
    if (s.kind !== 'source' && s.stem !== null)
      throw new Refusal('kind', `\`${s.id}\` is a ${s.kind} and has a stem: only sources have one.`, [s.id]);
    if (s.kind === 'output' && s.out.to !== null)
      throw new Refusal(
        'kind',
        `The output \`${s.id}\` leads to \`${s.out.to}\`: an output leaves the session.`,
        [s.id],
      );
    if (((s.pair ?? null) !== null) !== (s.kind === 'output'))
      throw new Refusal(
        'kind',
        `\`${s.id}\` is ${s.kind === 'output' ? 'an output and leaves by no channel pair' : `a ${s.kind} and leaves by a channel pair: only outputs do`}.`,
        [s.id],
      );
    if (s.preamp) {
      if (s.kind !== 'source')
        throw new Refusal(
          'kind',
          `\`${s.name || s.id}\` is a ${s.kind}: only sources come by a preamplifier.`,
          [s.id],
        );
      const other = preamps.get(s.preamp.input);
      if (other !== undefined)
        throw new Refusal(
          'duplicate',
          `Input ${s.preamp.input} of the preamplifier is taken by \`${other}\`. Choose another.`,
          [s.id],
        );
      preamps.set(s.preamp.input, s.name || s.id);
    }
    checkStrip(s);
    if (s.kind !== 'output' && s.out.to !== null) takesSignal(s.out.to, 'The out', s.id);
    for (const x of s.sends) {
      claimOwn(x.id, 'send');
      takesSignal(x.to, `The send \`${x.id}\``, s.id);
    }
    for (const i of s.inserts) {
      claimOwn(i.id, 'insert');
      const processor = processorOf(i.type);
      if (processor.channels === 'stereo' && s.channels === 1)
        throw new Refusal(
          'kind',
          `The ${processor.name} \`${i.id}\` needs two channels, and \`${s.name || s.id}\` is mono.`,
          [s.id, i.id],
        );
      if (i.key === null) continue;
      if (!processor.takesKey)
        throw new Refusal('kind', `The ${processor.name} \`${i.id}\` of \`${s.id}\` takes no key input.`, [
          s.id,
          i.id,
        ]);
      const kind = kinds.get(i.key);
      if (!isStrip(kind))
        throw new Refusal(
          'dangling',
          `The key of \`${i.id}\` in \`${s.id}\` is \`${i.key}\`, and there is no such strip.`,
          [s.id, i.key],
        );
    }
  }
  for (const v of session.vcas) {
    checkVca(v);
    const members = new Set<Id>();
    for (const m of v.members) {
      if (!kinds.has(m) || kinds.get(m) === 'link')
        throw new Refusal(
          'dangling',
          `The VCA \`${v.id}\` holds \`${m}\`, and there is no such strip or VCA.`,
          [v.id, m],
        );
      if (members.has(m))
        throw new Refusal('duplicate', `The VCA \`${v.id}\` holds \`${m}\` twice.`, [v.id, m]);
      members.add(m);
    }
  }
  for (const l of session.links) {
    if (new Set(l.members).size !== l.members.length)
      throw new Refusal('duplicate', `The link \`${l.name || l.id}\` names a strip twice.`, [l.id]);
    for (const m of l.members)
      if (!isStrip(kinds.get(m)))
        throw new Refusal(
          'dangling',
          `The link \`${l.name || l.id}\` names \`${m}\`, and there is no such strip.`,
          [l.id, m],
        );
  }
  if (session.monitor !== null && kinds.get(session.monitor) !== 'output')
    throw new Refusal(
      'dangling',
      `The monitored output is \`${session.monitor}\`, and there is no such output.`,
      [session.monitor],
    );
  for (const s of session.sections)
    if (s.end <= s.start)
      throw new Refusal('range', `The section \`${s.name || s.id}\` ends before it begins.`, [s.id]);
  const loop = vcaLoop(session.vcas);
  if (loop)
    throw new Refusal(
      'cycle',
      `The VCA \`${loop[0]}\` would hold itself: ${loop.join(' → ')}.`,
      loop.slice(0, -1),
    );
  signalOrder(session);
}
