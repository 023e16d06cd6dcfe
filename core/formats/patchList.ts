import Papa from 'papaparse';
import { levelText, readLevel } from '../levels/decibels';
import { FADER_TOP } from '../levels/faderLaw';
import { panText, readPan } from '../levels/pan';
import { processorOf } from '../processors/registry';
import type { Command } from '../edits/commands';
import { newSend } from '../session/defaults';
import { freshId } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Send, Session, Strip, Tap } from '../session/types';
import type { Id } from '../base/units';

/** Columns of a patch list, in their order. */
export const PATCH_COLUMNS = ['strip', 'kind', 'family', 'inserts', 'sends', 'out', 'dry path'] as const;

const plain = (text: string) => text.replace(/−/g, '-').replace('∞', 'inf');
/** A send in a cell: `Plate | post | -12.00 dB | L30 | off`; pan and off stand only where they say something. */
function sendText(name: string, x: Send): string {
  const parts = [name, x.tap, x.levelDb === null ? '-inf dB' : `${plain(levelText(x.levelDb, 2))} dB`];
  if (x.pan !== 0) parts.push(panText(x.pan));
  if (!x.on) parts.push('off');
  return parts.join(' | ');
}

/**
 * The session's patch list as CSV (RFC 4180): a row a strip with its inserts, its sends with tap and level, and its out.
 * Inserts and sends stand a line each in their cell.
 */
export function writePatchList(session: Session): string {
  const name = (id: Id | null) => (id === null ? '' : session.strips.find((s) => s.id === id)?.name || id);
  const rows = session.strips.map((s) => [
    s.name || s.id,
    s.kind,
    s.family,
    s.inserts
      .map(
        (i) =>
          `${processorOf(i.type).name}, ${i.place === 'pre' ? 'before' : 'after'} the fader${i.on ? '' : ', bypassed'}`,
      )
      .join('\n'),
    s.sends.map((x) => sendText(name(x.to), x)).join('\n'),
    name(s.out.to),
    s.out.on ? 'on' : 'off',
  ]);
  return `${Papa.unparse({ fields: [...PATCH_COLUMNS], data: rows }, { newline: '\r\n' })}\r\n`;
}

export interface PatchRead {
  /** Outs and sends of the strips that were found, where they differ from the session. */
  readonly commands: readonly Command[];
  /** What could not be taken, by row and reason. */
  readonly problems: readonly string[];
  /** Strips that the list names. */
  readonly matched: number;
}

const SEND = /^(.*) \| (input|pre|post) \| (-inf|[+-]?\d+(?:[.,]\d+)?) dB(?: \| (C|[LR]\d+))?(?: \| (off))?$/;

/**
 * Reads a patch list back: outs and sends go to the strips of the same name. A strip's sends become those of its row; a
 * column that is left out changes nothing. Inserts are not read.
 * @throws Refusal `format` when the text is no table with a column `strip`
 */
export function readPatchList(session: Session, text: string): PatchRead {
  const table = Papa.parse<Record<string, string>>(text, {
    header: true,
    skipEmptyLines: 'greedy',
    transformHeader: (h) =>
      h
        .replace(/^\uFEFF/, '')
        .trim()
        .toLowerCase(),
  });
  const fields = table.meta.fields ?? [];
  if (!fields.includes('strip'))
    throw new Refusal('format', 'This is no patch list: its first row has no column `strip`.');
  const byName = new Map<string, Strip[]>();
  for (const s of session.strips) {
    const key = (s.name || s.id).trim().toLowerCase();
    byName.set(key, [...(byName.get(key) ?? []), s]);
  }
  const commands: Command[] = [];
  const problems: string[] = [];
  const taken = new Set<Id>();
  let matched = 0;
  const find = (name: string, row: string): Strip | null => {
    const found = byName.get(name.trim().toLowerCase()) ?? [];
    if (found.length === 1) return found[0]!;
    problems.push(
      found.length === 0
        ? `${row}: there is no strip “${name}”.`
        : `${row}: ${found.length} strips are called “${name}”. Give them names of their own first.`,
    );
    return null;
  };
  for (const error of table.errors.slice(0, 5))
    problems.push(`Row ${(error.row ?? 0) + 2}: ${error.message}.`);
  table.data.forEach((cells, i) => {
    const row = `Row ${i + 2}`;
    const strip = find(cells['strip'] ?? '', row);
    if (!strip) return;
    matched++;
    if (cells['out'] !== undefined && strip.kind !== 'output') {
      const name = cells['out'].trim();
      const goal = name === '' ? null : find(name, row);
      const dry = cells['dry path']?.trim().toLowerCase();
      const on = dry === undefined || dry === '' ? strip.out.on : dry !== 'off';
      if (goal && (goal.kind === 'source' || goal === strip))
        problems.push(`${row}: ${name} takes no signal of ${strip.name || strip.id}.`);
      else if (name === '' || goal) {
        const to = goal?.id ?? null;
        if (to !== strip.out.to || on !== strip.out.on)
          commands.push({ type: 'strip.out', id: strip.id, out: { to, on } });
      }
    }
    if (cells['sends'] === undefined) return;
    const kept = new Set<Id>();
    let added = 0;
    for (const line of cells['sends']
      .split(/\r?\n/)
      .map((l) => l.trim())
      .filter(Boolean)) {
      const parts = SEND.exec(line);
      const levelDb = parts ? readLevel(parts[3]!) : undefined;
      if (!parts || levelDb === undefined || (levelDb !== null && levelDb > FADER_TOP)) {
        problems.push(`${row}: “${line}” is no send. Write it as: Plate | post | -12.00 dB`);
        // What is not understood is left as it is.
        for (const x of strip.sends) kept.add(x.id);
        continue;
      }
      const goal = find(parts[1]!, row);
      if (!goal) continue;
      if (goal.kind === 'source' || goal === strip || strip.kind === 'output') {
        problems.push(`${row}: ${strip.name || strip.id} cannot be sent to ${goal.name || goal.id}.`);
        continue;
      }
      const patch = {
        tap: parts[2] as Tap,
        levelDb,
        pan: parts[4] ? readPan(parts[4])! : 0,
        on: parts[5] === undefined,
      };
      const known = strip.sends.find((x) => x.to === goal.id && !kept.has(x.id));
      if (!known) {
        const send = newSend({
          id: freshId(session, `${strip.id}-to-${goal.id}`, taken),
          to: goal.id,
          ...patch,
        });
        taken.add(send.id);
        commands.push({ type: 'send.add', strip: strip.id, send, at: strip.sends.length + added++ });
        continue;
      }
      kept.add(known.id);
      const near = (a: number | null, b: number | null) =>
        a === b || (a !== null && b !== null && Math.abs(a - b) < 0.005);
      if (
        known.tap !== patch.tap ||
        known.on !== patch.on ||
        !near(known.levelDb, patch.levelDb) ||
        Math.abs(known.pan - patch.pan) >= 0.005
      )
        commands.push({ type: 'send.set', strip: strip.id, id: known.id, patch });
    }
    for (const x of strip.sends)
      if (!kept.has(x.id)) commands.push({ type: 'send.remove', strip: strip.id, id: x.id });
  });
  return { commands, problems, matched };
}
