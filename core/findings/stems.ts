import { isMuted } from '../groups/vca';
import { stereoPairs } from '../naming/suggest';
import type { Strip } from '../session/types';
import { listed, named, type Rule } from './finding';

export const sameStem: Rule = {
  id: 'same-stem',
  title: 'One stem on two strips',
  *find({ session, effective, reachesOutput, keys }) {
    const by = new Map<string, Strip[]>();
    for (const s of session.strips)
      if (s.stem !== null && !isMuted(session, s) && reachesOutput.has(s.id) && !keys.has(s.id)) {
        const list = by.get(s.stem);
        if (list) list.push(s);
        else by.set(s.stem, [s]);
      }
    for (const [stem, same] of by) {
      if (same.length < 2) continue;
      const [a, b] = same as [Strip, Strip];
      const turned = same.some((s) => s.invert !== a.invert);
      const level = (s: Strip) => (effective(s) ?? -Infinity) + (s.trimDb ?? -Infinity);
      const alike =
        same.length === 2 &&
        a.inserts.length + b.inserts.length === 0 &&
        Math.abs(level(a) - level(b)) < 0.05 &&
        a.pan === b.pan &&
        a.out.to === b.out.to;
      const last = same.at(-1)!;
      yield {
        key: stem,
        severity: turned ? 'fault' : 'risk',
        sure: alike ? 'certain' : 'likely',
        what: `${listed(same.map(named))} play the same stem${turned ? `, ${listed(same.filter((s) => s.invert).map(named))} with its polarity turned${alike ? ': they cancel each other to silence' : ''}` : ''}.`,
        why: turned
          ? 'What is added to its own opposite grows softer and thinner, down to nothing where both are as loud.'
          : 'Two equal signals add to 6 dB more, and a fader moves only one of them.',
        where: same.map((s) => s.id),
        repair: {
          label: `Mute ${named(last)}`,
          commands: [{ type: 'strip.set', id: last.id, patch: { mute: true } }],
        },
      };
    }
  },
};

/** -80 dBFS: what a converter's own noise is at most. */
const SILENT = 1e-4;
/** In mono so much of a stereo stem has to be left: -10 dB. */
const LEFT_IN_MONO = 0.1;
/** Stems of one family differ in length by no more. */
const LENGTH_SECONDS = 0.05;

export const silentStem: Rule = {
  id: 'silent-stem',
  title: 'A stem that is silent',
  *find({ session, stems }) {
    for (const s of session.strips) {
      const stem = stems?.strips.get(s.id);
      if (!stem || stem.peak > SILENT) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'measured',
        what: `The stem of ${named(s)} holds ${stem.peak === 0 ? 'silence' : `nothing above ${(20 * Math.log10(stem.peak)).toFixed(0)} dBFS`}.`,
        why: 'Either it was exported muted, or it takes a place on the Sheet for nothing.',
        where: [s.id],
        repair: { label: 'Hide it', commands: [{ type: 'strip.set', id: s.id, patch: { hidden: true } }] },
      };
    }
  },
};

export const clippedStem: Rule = {
  id: 'clipped-stem',
  title: 'A stem that clips',
  *find({ session, stems }) {
    for (const s of session.strips) {
      const stem = stems?.strips.get(s.id);
      if (!stem || stem.clips === 0) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'measured',
        what: `The stem of ${named(s)} is cut off at full scale ${stem.clips === 1 ? 'once' : `${stem.clips} times`}.`,
        why: 'That distortion is in the file: no fader takes it away. A new export of it, a few decibels softer, does.',
        where: [s.id],
        repair: null,
      };
    }
  },
};

export const monoLoss: Rule = {
  id: 'mono-loss',
  title: 'A stereo stem that cancels in mono',
  *find({ session, stems }) {
    for (const s of session.strips) {
      const stem = stems?.strips.get(s.id);
      // A strip of one channel, or of no width, is heard as what is left.
      if (!stem || stem.mono === null || stem.peak <= SILENT || stem.mono > LEFT_IN_MONO) continue;
      yield {
        key: s.id,
        severity: 'risk',
        sure: 'measured',
        what: `The stem of ${named(s)} ${stem.mono < 1e-5 ? 'is gone' : `loses ${(-10 * Math.log10(stem.mono)).toFixed(0)} dB`} in mono: its sides are opposites.`,
        why: 'Where both sides meet, in a small speaker or a fold-down, they cancel. One side of the file has its polarity turned.',
        where: [s.id],
        repair: null,
      };
    }
  },
};

export const unevenFamily: Rule = {
  id: 'uneven-family',
  title: 'Stems of one family that differ in length',
  *find({ session, stems }) {
    if (!stems) return;
    const by = new Map<string, Strip[]>();
    for (const s of session.strips)
      if (s.family !== '' && stems.strips.has(s.id)) by.set(s.family, [...(by.get(s.family) ?? []), s]);
    for (const [family, list] of by) {
      const length = (s: Strip) => stems.strips.get(s.id)!.frames / session.sampleRate;
      // The length that most of them have.
      const common = list
        .map((s) => ({
          seconds: length(s),
          count: list.filter((t) => Math.abs(length(t) - length(s)) <= LENGTH_SECONDS).length,
        }))
        .sort((a, b) => b.count - a.count || b.seconds - a.seconds)[0]!;
      const others = list.filter((s) => Math.abs(length(s) - common.seconds) > LENGTH_SECONDS);
      if (list.length < 2 || others.length === 0) continue;
      yield {
        key: family,
        severity: 'note',
        sure: 'measured',
        what: `In ${family}, ${listed(others.map((s) => `${named(s)} (${length(s).toFixed(1)} s)`))} ${others.length === 1 ? 'is' : 'are'} not as long as the others (${common.seconds.toFixed(1)} s).`,
        why: 'Stems that were exported together are of one length; one that is not may begin or end elsewhere.',
        where: others.map((s) => s.id),
        repair: null,
      };
    }
  },
};

export const unevenStart: Rule = {
  id: 'uneven-start',
  title: 'Stems of one family that begin at different times',
  *find({ session, stems }) {
    if (!stems) return;
    const begins = (s: Strip) => stems.strips.get(s.id)?.begins ?? null;
    const by = new Map<string, Strip[]>();
    for (const s of session.strips)
      if (s.family !== '' && begins(s) !== null) by.set(s.family, [...(by.get(s.family) ?? []), s]);
    for (const [family, list] of by) {
      const apart = (s: Strip, t: Strip) => Math.abs(begins(s)! - begins(t)!) > LENGTH_SECONDS;
      // The time at which most of them begin; the first of those that as many share.
      const common = list
        .map((s) => ({ strip: s, count: list.filter((t) => !apart(s, t)).length }))
        .sort((a, b) => b.count - a.count || begins(a.strip)! - begins(b.strip)!)[0]!.strip;
      const others = list.filter((s) => apart(s, common));
      if (others.length === 0) continue;
      const away = (s: Strip) => begins(s)! - begins(common)!;
      yield {
        key: family,
        severity: 'risk',
        sure: 'measured',
        what: `In ${family}, ${listed(others.map((s) => `${named(s)} (${Math.abs(away(s)).toFixed(2)} s ${away(s) > 0 ? 'later' : 'earlier'})`))} ${others.length === 1 ? 'begins' : 'begin'} at another time than the others, as ${others.length === 1 ? 'its file says' : 'their files say'}.`,
        why: 'Every stem plays from the same place. One that was recorded or exported from elsewhere is heard out of its time: export it from where the others begin.',
        where: others.map((s) => s.id),
        repair: null,
      };
    }
  },
};

/** A pair is shifted where it agrees better elsewhere: at 1 ms if it is nearly the same, at 3 ms if it is half of it. */
const shifted = (seconds: number, correlation: number, asItStands: number) =>
  Math.abs(correlation) > 1.25 * Math.abs(asItStands) &&
  ((seconds > 0.001 && Math.abs(correlation) > 0.8) || (seconds > 0.003 && Math.abs(correlation) > 0.4));

export const shiftedPair: Rule = {
  id: 'shifted-pair',
  title: 'A stem that is shifted against its pair',
  *find({ session, strips, stems }) {
    for (const p of stems?.pairs ?? []) {
      const [left, right] = [strips.get(p.left), strips.get(p.right)];
      const seconds = Math.abs(p.shift) / session.sampleRate;
      if (!left || !right || !shifted(seconds, p.correlation, p.asItStands)) continue;
      const late = p.shift > 0 ? right : left;
      const other = p.shift > 0 ? left : right;
      yield {
        key: `${left.id} ${right.id}`,
        severity: 'risk',
        sure: 'measured',
        what: `${named(late)} comes ${(seconds * 1000).toFixed(1)} ms behind ${named(other)}, with which it makes a pair.`,
        why: 'The pair leans to the earlier side, and in mono it makes a comb. One of the two files begins elsewhere.',
        where: [late.id, other.id],
        repair: null,
      };
    }
  },
};

/** Sources whose names make pairs of them, each of one channel. */
export const pairsToMeasure = (strips: readonly Strip[]) =>
  stereoPairs(strips.filter((s) => s.kind === 'source' && s.stem !== null && s.channels === 1));
