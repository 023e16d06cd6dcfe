import { follows } from '../session/mode';
import { effectiveLevel, holdersOf } from '../groups/vca';
import { FADER_TOP } from '../levels/faderLaw';
import { processorOf } from '../processors/registry';
import type { Command } from '../edits/commands';
import { stripMap, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Session, Strip } from '../session/types';
import type { Id } from '../base/units';

const named = (s: { readonly name: string; readonly id: Id }) => s.name || s.id;
const no = (submix: Strip, why: string, things: readonly Id[] = []) =>
  new Refusal('in-use', `\`${named(submix)}\` cannot be dissolved: ${why}`, [submix.id, ...things]);

/**
 * Takes a submix away and folds its gain into the strips that feed it, so that what reaches its destination stays the
 * same: each feeder's fader takes the submix's trim, fader and VCAs on, its post-fader sends give as much back, and the
 * VCAs that held the submix hold the feeders.
 * @throws Refusal `kind` for what is no submix, `in-use` saying what prevents it
 */
export function dissolve(session: Session, id: Id): readonly Command[] {
  const submix = stripOf(session, id);
  const strips = stripMap(session);
  if (submix.kind !== 'submix')
    throw new Refusal('kind', `\`${named(submix)}\` is a ${submix.kind}: only a submix can be dissolved.`, [
      id,
    ]);
  const insert = submix.inserts.find((i) => i.on && i.mix > 0);
  if (insert)
    throw no(submix, `its ${processorOf(insert.type).name} works on the blend. Bypass or move it first.`, [
      insert.id,
    ]);
  if (submix.out.to === null) throw no(submix, 'it leads nowhere. Give it an out first.');
  const goal = strips.get(submix.out.to)!;
  if (submix.sends.some((x) => x.on && x.levelDb !== null))
    throw no(submix, 'it is sent to returns as a blend. Remove its sends first.');
  if (submix.mute || submix.solo)
    throw no(
      submix,
      `it is ${submix.mute ? 'muted' : 'soloed'}. ${submix.mute ? 'Unmute it' : 'Take the solo off'} first.`,
    );
  if (submix.channels === 2 && (submix.pan !== 0 || submix.width !== 1 || submix.swap))
    throw no(submix, 'its balance, width or swap works on the blend. Set them to their defaults first.');
  if (submix.channels !== goal.channels)
    throw no(
      submix,
      `it brings the blend to ${submix.channels === 1 ? 'mono' : 'stereo'}, and \`${named(goal)}\` takes it otherwise.`,
    );
  const keyed = session.strips.find((s) => s.inserts.some((i) => i.key === id));
  if (keyed)
    throw no(submix, `it keys a processor on \`${named(keyed)}\`. Choose another key first.`, [keyed.id]);
  if (follows(submix.automation) && (submix.lanes.fader || submix.lanes.mute || submix.lanes.pan))
    throw no(submix, 'its level, pan or mute is automated. Take those lanes out first.');
  const level = effectiveLevel(session, submix);
  if (level === null || submix.trimDb === null)
    throw no(submix, 'it is at silence. Bring its level up first.');
  const gain = level + submix.trimDb;

  const commands: Command[] = [];
  const newMembers = new Map(session.vcas.map((v) => [v.id, v.members]));
  const holders = session.vcas.filter((v) => v.members.includes(id));
  const feeders = session.strips.filter((s) => s.out.to === id || s.sends.some((x) => x.to === id));
  const byOut = feeders.filter((s) => s.out.to === id);
  for (const v of holders) {
    const members = v.members.filter((m) => m !== id);
    newMembers.set(v.id, [...members, ...byOut.map((s) => s.id).filter((s) => !members.includes(s))]);
  }
  const after: Session = {
    ...session,
    vcas: session.vcas.map((v) => ({ ...v, members: newMembers.get(v.id)! })),
  };
  for (const v of holders) commands.push({ type: 'vca.members', id: v.id, members: newMembers.get(v.id)! });

  for (const s of feeders) {
    if (submix.invert && s.sends.some((x) => x.to !== id))
      throw no(submix, `its polarity is inverted, and \`${named(s)}\` is sent elsewhere too.`, [s.id]);
    const own = s.out.to === id;
    const written =
      (own && s.lanes.fader) ||
      s.sends.some((x) => x.lanes.level && (x.to === id || (own && x.tap === 'post')));
    if (written && follows(s.automation) && Math.abs(gain) > 1e-9)
      throw no(submix, `a level of \`${named(s)}\` is automated, and cannot take its gain on.`, [s.id]);
    if (own) {
      const driven = s.inserts.find((i) => i.on && i.place === 'post' && processorOf(i.type).levelDependent);
      if (driven && Math.abs(gain) > 1e-9)
        throw no(
          submix,
          `the ${processorOf(driven.type).name} after the fader of \`${named(s)}\` would be driven differently.`,
          [s.id],
        );
      const was = effectiveLevel(session, s);
      const vcas = holdersOf(after, s.id).reduce((sum, v) => sum + (v.faderDb ?? 0), 0);
      const patch: { faderDb?: number | null; invert?: boolean } = {};
      if (was !== null) {
        const fader = was + gain - vcas;
        if (fader > FADER_TOP)
          throw no(
            submix,
            `the fader of \`${named(s)}\` would have to stand at ${fader.toFixed(1)} dB, above its top.`,
            [s.id],
          );
        patch.faderDb = fader;
      }
      if (submix.invert) patch.invert = !s.invert;
      if (patch.faderDb !== s.faderDb || submix.invert) commands.push({ type: 'strip.set', id: s.id, patch });
      commands.push({
        type: 'strip.out',
        id: s.id,
        out: { to: goal.id, on: s.out.on && submix.out.on },
      });
    } else if (submix.invert) commands.push({ type: 'strip.set', id: s.id, patch: { invert: !s.invert } });
    for (const x of s.sends) {
      // Its own fader has moved by the gain: a post-fader send gives that back, and one to the submix takes it on.
      const back = own && x.tap === 'post' ? -gain : 0;
      const levelDb = x.levelDb === null ? null : x.levelDb + back + (x.to === id ? gain : 0);
      if (levelDb !== null && levelDb > FADER_TOP)
        throw no(
          submix,
          `a send of \`${named(s)}\` would have to stand at ${levelDb.toFixed(1)} dB, above its top.`,
          [s.id],
        );
      const to = x.to === id ? goal.id : x.to;
      const on = x.to === id ? x.on && submix.out.on : x.on;
      if (levelDb !== x.levelDb || to !== x.to || on !== x.on)
        commands.push({ type: 'send.set', strip: s.id, id: x.id, patch: { levelDb, to, on } });
    }
  }
  for (const x of submix.sends) commands.push({ type: 'send.remove', strip: id, id: x.id });
  commands.push({ type: 'strip.remove', id });
  return commands;
}
