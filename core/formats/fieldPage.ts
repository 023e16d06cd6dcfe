import type { Field, Fields, Shape } from '../session/fields/shape';
import {
  INSERT,
  LAYOUT,
  LINK,
  OUT,
  PIN,
  PREAMP_SETTINGS,
  SECTION,
  SEND,
  SESSION,
  STRIP,
  TEMPO,
  VCA,
} from '../session/fields/tables';
import { LIMITS } from '../base/limits';

type Thing = readonly [title: string, fields: Fields];
const THINGS: readonly Thing[] = [
  ['Session', SESSION],
  ['Tempo', TEMPO],
  ['Section', SECTION],
  ['Strip', STRIP],
  ['Out', OUT],
  ['Preamplifier', PREAMP_SETTINGS],
  ['Send', SEND],
  ['Insert', INSERT],
  ['VCA', VCA],
  ['Link', LINK],
  ['Pin', PIN],
  ['Layout', LAYOUT],
];

/** What a shape holds, in words. */
export function shapeText(shape: Shape): string {
  const orNull = 'nullable' in shape && shape.nullable ? ', or null' : '';
  switch (shape.kind) {
    case 'flag':
      return 'true or false';
    case 'level':
      return `decibels, ${LIMITS.lowestDb} to ${shape.top}; null is silence`;
    case 'number':
      return `${shape.whole ? 'whole number' : 'number'}, ${shape.min} to ${shape.max}${shape.step ? ` in steps of ${shape.step}` : ''}${orNull}`;
    case 'choice':
      return shape.values.map((v) => `\`${v}\``).join(', ');
    case 'text':
      return `text of up to ${shape.most} characters${shape.least ? ', not empty' : ''}${orNull}`;
    case 'id':
      return `id${orNull}`;
    case 'colour':
      return 'colour, `#rrggbb`';
    case 'processor':
      return 'name of a [processor](processors/README.md)';
    case 'params':
      return 'numbers by parameter, of its processor';
    case 'lanes':
      return shape.controls
        ? `lanes of ${Object.keys(shape.controls)
            .map((c) => `\`${c}\``)
            .join(', ')}`
        : 'lanes of `on`, `mix` and its parameters';
    case 'object':
      return `fields of its own, below${orNull}`;
    case 'patch':
      return 'fields to be set';
    case 'oneOf':
      return `by its \`${shape.by}\`, one of ${Object.keys(shape.of)
        .map((k) => `\`${k}\``)
        .join(', ')}${orNull}`;
    case 'list':
      return `list${shape.most === null ? '' : ` of up to ${shape.most}`}: ${shape.of.kind === 'object' ? 'see below' : shapeText(shape.of)}`;
  }
}
const defaultText = (f: Field): string =>
  f.defaultBy ? 'by kind' : f.default === undefined ? 'has to be there' : `\`${JSON.stringify(f.default)}\``;

/** A table of fields: what each holds, and what it has where it is left out. */
export const fieldTable = (fields: Fields): readonly string[] => [
  '| field | holds | left out | |',
  '| --- | --- | --- | --- |',
  ...Object.entries(fields).map(
    ([name, f]) =>
      `| \`${name}\` | ${shapeText(f.shape)} | ${defaultText(f)} | ${[f.about ?? '', f.fixed ? 'Fixed.' : '', f.link ? `Linked with \`${f.link}\`.` : ''].filter(Boolean).join(' ')} |`,
  ),
];

/** All fields of the format, what each holds and where it is left out: docs/fields.md. */
export const fieldPage = (): string =>
  [
    '# Fields of the session',
    '',
    '<!-- Written by `npm run docs` from core/session/fields/tables.ts. -->',
    '',
    'What the numbers mean stands in [session-format.md](session-format.md). What an edit cannot set is marked as fixed.',
    ...THINGS.flatMap(([title, fields]) => ['', `## ${title}`, '', ...fieldTable(fields)]),
    '',
  ].join('\n');
