import Joi from '../session/fields/joi';
import { paramsJoi, wholeJoi } from '../session/fields/fieldJoi';
import { fieldSchemas } from '../session/fields/fieldSchemas';
import { INSERT, SEND } from '../session/fields/tables';
import { processors, processorOf } from '../processors/registry';
import { nameOf, stripOf } from '../session/lookup';
import { Refusal } from '../base/refusal';
import type { Command } from '../edits/commands';
import type { Insert, Send, Session } from '../session/types';
import type { IconId } from '../naming/iconIds';
import type { Decibels, Id } from '../base/units';
import {
  pasteSettings,
  settingsOf,
  type Pasted,
  type SettingsPart,
  type StripSettings,
} from './stripSettings';

/** A processor with its settings, apart from any strip. */
export interface KeptInsert {
  readonly type: string;
  readonly place: Insert['place'];
  readonly on: boolean;
  readonly mix: number;
  readonly params: Readonly<Record<string, number>>;
  /** Name of the strip that keys it. */
  readonly key: string | null;
}

export interface KeptSend {
  /** Name of the return or submix that it feeds. */
  readonly to: string;
  readonly tap: Send['tap'];
  readonly levelDb: Decibels;
  readonly pan: number;
}

interface PresetHead {
  readonly format: 'zonula-preset';
  readonly version: 1;
  readonly name: string;
  /** What it is for, in a line. */
  readonly about: string;
  /** Words by which it is found. */
  readonly words: readonly string[];
}

/** Settings under a name, for this session and the next: of one processor, or of a whole strip. */
export type Preset =
  | (PresetHead & { readonly kind: 'processor'; readonly insert: KeptInsert })
  | (PresetHead & {
      readonly kind: 'strip';
      readonly inserts: readonly KeptInsert[];
      readonly sends: readonly KeptSend[];
      /** Level, pan and input, where the preset sets them. */
      readonly faderDb: Decibels | undefined;
      readonly pan: number | undefined;
      readonly width: number | undefined;
      /** The icon, where the preset sets it. */
      readonly icon: IconId | undefined;
    });

const insertFields = wholeJoi(INSERT);
const sendFields = wholeJoi(SEND);
const keptInsert = Joi.object({
  type: Joi.string()
    .valid(...processors.map((p) => p.type))
    .required(),
  place: insertFields.place,
  on: insertFields.on,
  mix: insertFields.mix,
  params: paramsJoi.default({}),
  key: Joi.string().max(200).allow(null).default(null),
});
const head = {
  format: Joi.string().valid('zonula-preset').required(),
  version: Joi.number().valid(1).required(),
  name: Joi.string().trim().min(1).max(200).required(),
  about: Joi.string().allow('').max(500).default(''),
  words: Joi.array().items(Joi.string().max(60)).max(20).default([]),
};

export const presetSchema = Joi.alternatives().conditional('.kind', {
  switch: [
    {
      is: 'processor',
      then: Joi.object({ ...head, kind: Joi.string().required(), insert: keptInsert.required() }),
    },
    {
      is: 'strip',
      then: Joi.object({
        ...head,
        kind: Joi.string().required(),
        inserts: Joi.array().items(keptInsert).max(64).default([]),
        sends: Joi.array()
          .items(
            Joi.object({
              to: Joi.string().max(200).required(),
              tap: sendFields.tap,
              levelDb: sendFields.levelDb,
              pan: sendFields.pan,
            }),
          )
          .max(200)
          .default([]),
        faderDb: fieldSchemas.strip.faderDb,
        pan: fieldSchemas.strip.pan,
        width: fieldSchemas.strip.width,
        icon: fieldSchemas.strip.icon,
      }),
    },
  ],
  otherwise: Joi.object({ ...head, kind: Joi.string().valid('processor', 'strip').required() }).unknown(),
});

/** @throws Refusal `format` naming the field */
export function validPreset(raw: unknown): Preset {
  if (typeof raw === 'object' && raw !== null && (raw as { version?: unknown }).version !== undefined) {
    const { version } = raw as { version: unknown };
    if (typeof version === 'number' && version > 1)
      throw new Refusal(
        'format',
        'The preset is of a later version than this Zonula reads. Bring it up to date.',
      );
  }
  const { value, error } = presetSchema.required().validate(raw, { convert: false });
  if (error)
    throw new Refusal('format', `This is no preset that Zonula reads: ${error.details[0]!.message}.`);
  return value as Preset;
}

const presetHead = (name: string, about = '', words: readonly string[] = []): PresetHead => ({
  format: 'zonula-preset',
  version: 1,
  name,
  about,
  words,
});

const keep = (session: Session, i: Insert): KeptInsert => ({
  type: i.type,
  place: i.place,
  on: i.on,
  mix: i.mix,
  params: i.params,
  key: i.key === null ? null : nameOf(session, i.key),
});

export function presetOfInsert(session: Session, strip: Id, insert: Insert, name: string): Preset {
  stripOf(session, strip);
  return {
    ...presetHead(name, `${processorOf(insert.type).name} of ${nameOf(session, strip)}`),
    kind: 'processor',
    insert: keep(session, insert),
  };
}

export function presetOfStrip(session: Session, id: Id, name: string): Preset {
  const s = stripOf(session, id);
  return {
    ...presetHead(name, `From ${nameOf(session, id)}`, s.family ? [s.family] : []),
    kind: 'strip',
    inserts: s.inserts.map((i) => keep(session, i)),
    sends: s.sends.map((x) => ({ to: nameOf(session, x.to), tap: x.tap, levelDb: x.levelDb, pan: x.pan })),
    faderDb: undefined,
    pan: undefined,
    width: s.channels === 2 && s.width !== 1 ? s.width : undefined,
    icon: s.icon === 'none' ? undefined : s.icon,
  };
}

const byName = (session: Session, name: string): Id | null =>
  session.strips.find((s) => s.name.toLowerCase() === name.toLowerCase() || s.id === name)?.id ?? null;

/**
 * Gives a preset to strips. Names of sends and keys are looked up in this session; what is not there is left out and told.
 * A processor's preset sets the insert that is given, or adds a new one before the fader.
 */
export function applyPreset(
  session: Session,
  preset: Preset,
  targets: readonly Id[],
  insert: Id | null = null,
): Pasted {
  const left: string[] = [];
  const keyOf = (k: KeptInsert) => {
    const key = k.key === null ? null : byName(session, k.key);
    if (k.key !== null && key === null)
      left.push(`No strip is called “${k.key}” here, to key the ${processorOf(k.type).name}.`);
    return key;
  };
  const insertFrom = (k: KeptInsert, id: Id): Insert => ({
    id,
    type: k.type,
    place: k.place,
    on: k.on,
    mix: k.mix,
    params: k.params,
    key: keyOf(k),
    lanes: {},
  });
  if (preset.kind === 'processor') {
    const known =
      insert === null ? undefined : stripOf(session, targets[0]!).inserts.find((i) => i.id === insert);
    if (known && known.type === preset.insert.type) {
      const { mix, params } = preset.insert;
      const key = keyOf(preset.insert);
      const commands: Command[] = [
        {
          type: 'insert.set',
          strip: targets[0]!,
          id: known.id,
          patch: { mix, params, ...(key !== null && key !== targets[0] ? { key } : {}) },
        },
      ];
      return { commands, left };
    }
    const base: StripSettings = {
      ...settingsOf(session, targets[0]!),
      inserts: [insertFrom(preset.insert, 'new')],
    };
    // The new insert alone: what is there stays.
    const pasted = pasteSettings(session, base, targets, ['inserts']);
    const commands = pasted.commands.flatMap((c): Command[] =>
      c.type === 'insert.add'
        ? [
            {
              ...c,
              at:
                preset.insert.place === 'post'
                  ? stripOf(session, c.strip).inserts.length
                  : stripOf(session, c.strip).inserts.filter((i) => i.place === 'pre').length,
            },
          ]
        : [],
    );
    return { commands, left: [...left, ...pasted.left] };
  }
  const sends = preset.sends.flatMap((x, n): Send[] => {
    const to = byName(session, x.to);
    if (to === null) {
      left.push(`No return or submix is called “${x.to}” here.`);
      return [];
    }
    return [{ id: `x${n}`, to, tap: x.tap, levelDb: x.levelDb, pan: x.pan, on: true, lanes: {} }];
  });
  const settings: StripSettings = {
    ...settingsOf(session, targets[0]!),
    inserts: preset.inserts.map((k, n) => insertFrom(k, `i${n}`)),
    sends,
  };
  const parts: SettingsPart[] = ['inserts', ...(sends.length ? (['sends'] as const) : [])];
  const pasted = pasteSettings(session, settings, targets, parts);
  const more = targets.flatMap((id): Command[] => {
    const patch = {
      ...(preset.faderDb !== undefined ? { faderDb: preset.faderDb } : {}),
      ...(preset.pan !== undefined ? { pan: preset.pan } : {}),
      ...(preset.width !== undefined && stripOf(session, id).channels === 2 ? { width: preset.width } : {}),
      ...(preset.icon !== undefined ? { icon: preset.icon } : {}),
    };
    return Object.keys(patch).length ? [{ type: 'strip.set', id, patch }] : [];
  });
  return { commands: [...pasted.commands, ...more], left: [...new Set([...left, ...pasted.left])] };
}

/** Whether a preset answers to what is looked for: every word of it somewhere in its name, purpose, words or processors. */
export function presetMatches(preset: Preset, query: string): boolean {
  const types = preset.kind === 'strip' ? preset.inserts.map((i) => i.type) : [preset.insert.type];
  const hay = [preset.name, preset.about, ...preset.words, ...types.map((t) => processorOf(t).name)]
    .join(' ')
    .toLowerCase();
  return query
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .every((w) => hay.includes(w));
}
