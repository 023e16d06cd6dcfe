import { processorOf } from '../processors/registry';
import { valueOf } from '../processors/description';
import { vcaOf, stripMap } from '../session/lookup';
import type { Command } from '../edits/commands';
import type { Session } from '../session/types';
import { findControl, type ControlRef, type PlacedControl } from './control';
import { insertControls, type ControlValue } from '../session/controls';

/** A control that an edit puts to a value. */
export interface ControlMove {
  readonly ref: ControlRef;
  readonly value: ControlValue;
}
export interface Parted {
  /** What moves controls that automation has: to be written, not put. */
  readonly moves: readonly (ControlMove & { readonly placed: PlacedControl })[];
  /** The rest of the edit. */
  readonly rest: readonly Command[];
}

const number = (v: unknown): ControlValue => (typeof v === 'boolean' ? (v ? 1 : 0) : (v as ControlValue));

/** The fields of commands that are controls, by the control's id. */
const STRIP_FIELDS = { fader: 'faderDb', pan: 'pan', mute: 'mute' } as const;
const SEND_FIELDS = { level: 'levelDb', pan: 'pan', on: 'on' } as const;

/**
 * Parts an edit into moves of controls that automation takes and the rest.
 * @param session the document, with controls where they were put
 * @param now the same with controls where their lanes have them: what the edit was made from
 * @param takes whether a move is taken; a move that is not stays in the edit
 */
export function partEdit(
  session: Session,
  now: Session,
  commands: readonly Command[],
  takes: (placed: PlacedControl) => boolean,
): Parted {
  const moves: (ControlMove & { placed: PlacedControl })[] = [];
  const rest: Command[] = [];
  const strips = stripMap(session);
  const nowStrips = stripMap(now);

  /** The patch without the fields that are taken, or that are no change of what a lane has made of them. */
  function left(
    ref: Omit<ControlRef, 'control'>,
    fields: Readonly<Record<string, string>>,
    patch: Readonly<Record<string, unknown>>,
    before: Readonly<Record<string, unknown>>,
  ): Record<string, unknown> {
    const out = { ...patch };
    for (const [control, field] of Object.entries(fields)) {
      if (!(field in patch)) continue;
      const placed = findControl(session, { ...ref, control });
      if (!placed) continue;
      const same = patch[field] === before[field];
      if (placed.lane && same) delete out[field];
      else if (takes(placed)) {
        moves.push({ ref: placed.ref, value: number(patch[field]), placed });
        delete out[field];
      }
    }
    return out;
  }
  const keep = (command: Command, patch: Record<string, unknown>) => {
    if (Object.keys(patch).length > 0) rest.push({ ...command, patch } as Command);
  };

  for (const c of commands) {
    switch (c.type) {
      case 'strip.set': {
        const before = nowStrips.get(c.id);
        if (!before) rest.push(c);
        else keep(c, left({ part: 'strip', owner: c.id, id: null }, STRIP_FIELDS, c.patch, { ...before }));
        break;
      }
      case 'vca.set': {
        const before = vcaOf(now, c.id);
        keep(c, left({ part: 'vca', owner: c.id, id: null }, STRIP_FIELDS, c.patch, { ...before }));
        break;
      }
      case 'send.set': {
        const before = nowStrips.get(c.strip)?.sends.find((x) => x.id === c.id);
        if (!before) rest.push(c);
        else keep(c, left({ part: 'send', owner: c.strip, id: c.id }, SEND_FIELDS, c.patch, { ...before }));
        break;
      }
      case 'insert.set': {
        const before = nowStrips.get(c.strip)?.inserts.find((x) => x.id === c.id);
        const put = strips.get(c.strip)?.inserts.find((x) => x.id === c.id);
        if (!before || !put) {
          rest.push(c);
          break;
        }
        const ref = { part: 'insert', owner: c.strip, id: c.id } as const;
        const patch = left(ref, { on: 'on', mix: 'mix' }, c.patch, { ...before });
        if (c.patch.params) {
          const params: Record<string, number> = { ...c.patch.params };
          const { parameters } = processorOf(put.type);
          for (const control of insertControls(put.type)) {
            const p = parameters.find((x) => x.id === control.id);
            if (!p) continue;
            const placed = findControl(session, { ...ref, control: p.id })!;
            const next = valueOf(p, params);
            const same = next === valueOf(p, before.params);
            const taken = !same && takes(placed);
            if (taken) moves.push({ ref: placed.ref, value: next, placed });
            if (!taken && !(placed.lane && same)) continue;
            // Where it was put it stays.
            if (p.id in put.params) params[p.id] = put.params[p.id]!;
            else delete params[p.id];
          }
          const names = new Set([...Object.keys(params), ...Object.keys(put.params)]);
          if ([...names].some((n) => params[n] !== put.params[n])) patch.params = params;
          else delete patch.params;
        }
        keep(c, patch);
        break;
      }
      default:
        rest.push(c);
    }
  }
  return { moves, rest };
}
