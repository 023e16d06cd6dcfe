import { iconFor } from '../naming/icons';
import { FADER } from '../session/controls';
import { lanesBut } from '../automation/lane';
import { follows } from '../session/mode';
import { shiftedLane } from '../automation/write';
import { addDecibels, decibelsOf } from '../levels/decibels';
import { FADER_TOP } from '../levels/faderLaw';
import { processorOf } from '../processors/registry';
import { newInsert, newSend, newStrip } from '../session/defaults';
import { freshId, mainOutput, nameOf, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import type { Insert, Session, Strip } from '../session/types';
import type { Id } from '../base/units';
import { positionFor } from './gather';
import { insertOf, type InsertRef } from './inserts';

export interface MovedEffect {
  readonly commands: readonly Command[];
  readonly label: string;
  /** The new return. */
  readonly made: Id;
  /** Why the sum is not the same as before, in words; empty where it is. */
  readonly differences: readonly string[];
}

/** What changes the sum when an effect leaves its place in the chain for a return after the fader. */
function differencesOf(session: Session, strip: Strip, insert: Insert): string[] {
  const found: string[] = [];
  const own = processorOf(insert.type);
  const name = nameOf(session, strip.id);
  if (own.levelDependent)
    found.push(`The ${own.name} works on the level that reaches it, which is another after the fader.`);
  for (const later of strip.inserts.slice(strip.inserts.indexOf(insert) + 1)) {
    const p = processorOf(later.type);
    if (!later.on) continue;
    if (p.levelDependent || p.nonlinear)
      found.push(`The ${p.name} after it in \`${name}\` hears the dry signal alone.`);
    else if (p.channels !== 'each' && own.channels !== 'each')
      found.push(`The ${p.name} after it in \`${name}\` comes before it now.`);
  }
  if (strip.channels === 2 && strip.pan !== 0 && own.channels !== 'each')
    found.push(`\`${name}\` is balanced before the ${own.name} now.`);
  const others = strip.sends.filter((x) => x.on && x.tap !== 'input');
  if (others.length && insert.mix > 0)
    found.push(
      `${others.length === 1 ? 'One other send' : `${others.length} other sends`} of \`${name}\` carried it too, and carry the dry signal now.`,
    );
  return found;
}

/**
 * Moves an effect from strips to one new return: the same parameters, fully wet, fed by a post-fader send of each. A strip
 * whose mix was m keeps its dry share: its fader goes down by 20 log10(1 - m), and its send stands at 20 log10(m / (1 - m)),
 * so that the sum is the same as before for a linear effect. At a mix of 1 its dry path goes off and its send stands at 0 dB.
 * The first one's parameters are taken; the return goes where the strips go, and is mono for mono strips.
 * @throws Refusal `kind` where the effect is bypassed or cannot be sent, `range` where the send would have to be too loud
 */
export function moveToReturn(session: Session, refs: readonly InsertRef[]): MovedEffect {
  const first = refs[0];
  if (!first) throw new Refusal('range', 'Pick the strips whose effect is to move.', []);
  const insert = insertOf(session, first.strip, first.id);
  const processor = processorOf(insert.type);
  const strips = refs.map((r) => stripOf(session, r.strip));
  const [lead] = strips as [Strip];
  const channels = strips.every((s) => s.channels === 1 && s.pan === lead.pan) ? 1 : 2;
  const to = strips.every((s) => s.out.to === lead.out.to) ? lead.out.to : (mainOutput(session)?.id ?? null);
  const name = `${processor.name} of ${refs.length === 1 ? nameOf(session, lead.id) : `${refs.length} strips`}`;
  const made = freshId(session, name);
  const taken = new Set<Id>([made]);
  const effect = newInsert({
    id: freshId(session, `${made}-${insert.type}`, taken),
    type: insert.type,
    params: insert.params,
    key: refs.some((r) => r.strip === insert.key) ? null : insert.key,
    lanes: lanesBut(insert.lanes, 'on', 'mix'),
  });
  taken.add(effect.id);
  const commands: Command[] = [
    {
      type: 'strip.add',
      strip: newStrip({
        id: made,
        kind: 'return',
        name,
        family: 'Returns',
        colour: '#6fb3cf',
        icon: iconFor({ name, family: 'Returns', kind: 'return' }),
        channels,
        pan: channels === 1 ? lead.pan : 0,
        automation: lead.automation === 'off' ? 'off' : 'read',
        inserts: [effect],
        out: { to, on: true },
      }),
      at: positionFor(session, [lead.id], 'end'),
    },
  ];
  const differences: string[] = [];
  for (const ref of refs) {
    const strip = stripOf(session, ref.strip);
    const own = insertOf(session, ref.strip, ref.id);
    if (strip.kind === 'output')
      throw new Refusal('kind', `\`${nameOf(session, strip.id)}\` is an output and has no sends.`, [
        strip.id,
      ]);
    if (own.type !== insert.type)
      throw new Refusal('kind', `One return has one effect: these are of different kinds.`, [strip.id]);
    if (!own.on || own.mix === 0)
      throw new Refusal(
        'kind',
        `The ${processor.name} of \`${nameOf(session, strip.id)}\` is bypassed: there is nothing to move. Switch it on first.`,
        [strip.id, own.id],
      );
    if (follows(strip.automation) && (own.lanes.on || own.lanes.mix))
      throw new Refusal(
        'kind',
        `The ${processor.name} of \`${nameOf(session, strip.id)}\` has its ${own.lanes.mix ? 'mix' : 'switch'} automated, and a send cannot do the same. Take that lane out first.`,
        [strip.id, own.id],
      );
    differences.push(...differencesOf(session, strip, own));
    if (follows(strip.automation) && strip.lanes.fader && own.place === 'pre')
      differences.push(
        `The level of \`${nameOf(session, strip.id)}\` is automated: what rings on is not faded with it any more.`,
      );
    if (
      JSON.stringify(own.params) !== JSON.stringify(insert.params) ||
      JSON.stringify(own.lanes) !== JSON.stringify(insert.lanes)
    )
      differences.push(`\`${nameOf(session, strip.id)}\` had other settings.`);
    if (strip.out.to !== to)
      differences.push(`\`${nameOf(session, strip.id)}\` leads elsewhere than the return does.`);
    if (channels === 2 && strip.channels === 1 && processor.channels !== 'each')
      differences.push(`\`${nameOf(session, strip.id)}\` is mono, and the return is stereo.`);
    const dry = decibelsOf(1 - own.mix);
    const level = dry === null ? 0 : decibelsOf(own.mix / (1 - own.mix));
    if (level !== null && level > FADER_TOP)
      throw new Refusal(
        'range',
        `At a mix of ${Math.round(own.mix * 100)} % the send would have to stand above +${FADER_TOP} dB. Set the mix to 80 % or less, or to 100 %.`,
        [strip.id],
      );
    const send = newSend({ id: freshId(session, `${strip.id}-to-${made}`, taken), to: made, levelDb: level });
    taken.add(send.id);
    commands.push({ type: 'insert.remove', strip: strip.id, id: own.id });
    if (dry === null) commands.push({ type: 'strip.out', id: strip.id, out: { ...strip.out, on: false } });
    else {
      const { fader } = strip.lanes;
      const lowered = fader && shiftedLane(FADER, fader, dry);
      const lanes = lowered ? { lanes: { ...strip.lanes, fader: lowered } } : {};
      commands.push({
        type: 'strip.set',
        id: strip.id,
        patch: { faderDb: addDecibels(strip.faderDb, dry), ...lanes },
      });
    }
    commands.push({ type: 'send.add', strip: strip.id, send, at: strip.sends.length });
  }
  const soloed = strips.some((s) => s.out.on === false);
  if (soloed) differences.push('A strip whose dry path was off is heard by the return now.');
  return { commands, label: `${processor.name} to a return`, made, differences: [...new Set(differences)] };
}
