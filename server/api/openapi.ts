import type { ObjectSchema, Schema } from 'joi';
import convert from 'joi-to-json';
import type { Role } from '../../core/base/role';
import { presetJsonSchema } from '../../core/formats/presetSchema';
import { fieldSchemas } from '../../core/session/fields/fieldSchemas';
import { codeSchema, deviceSchema, openSchema, pairSchema } from '../access/schemas';
import { oscSwitchSchema } from '../osc/switched';
import {
  afterQuery,
  usesQuery,
  commitSchema,
  createSchema,
  knownSchema,
  fileQuery,
  pcmQuery,
  slicesSchema,
  stemQuery,
  uploadQuery,
} from './schemas';

type Json = Readonly<Record<string, unknown>>;
type Method = 'get' | 'post' | 'put' | 'delete';
export type Least = 'none' | Role | 'own';
interface RouteFacts {
  readonly method: Method;
  /** As Express has it: `/sessions/:id`. */
  readonly path: string;
  readonly about: string;
  readonly query?: ObjectSchema;
  readonly body?: Schema | 'wav' | 'package' | { readonly json: Json };
  /**
   * Who of other machines may ask: anybody, one of a role or more, or none of them. Left out: to read, who may listen; all else, who may do
   * everything.
   */
  readonly least?: Least;
  /** What a right answer is: its status, and in words what it holds. */
  readonly answer: readonly [status: number, holds: string];
}

/** A part of a document does not say which draft it keeps to. */
const PRESET = {
  json: Object.fromEntries(Object.entries(presetJsonSchema() as object).filter(([key]) => key !== '$schema')),
};
/** By its own check, `validProfile`. */
const DESK = { json: { type: 'object', description: 'A desk, as docs/surfaces.md tells.' } };
const PROFILE = { json: { type: 'object', description: 'A profile, as docs/surfaces.md tells.' } };

/** Every route of the API; a test holds the list against the router. */
export const ROUTES: readonly RouteFacts[] = [
  {
    method: 'get',
    path: '/health',
    least: 'none',
    about: 'Whether server and database are there.',
    answer: [200, '`ok`, `version`, `database`'],
  },
  { method: 'get', path: '/openapi.json', about: 'This description.', answer: [200, 'OpenAPI 3.1'] },
  { method: 'get', path: '/docs', about: 'This description, to be read.', answer: [200, 'HTML'] },
  {
    method: 'get',
    path: '/sessions',
    about: 'All sessions, last opened first.',
    answer: [200, '`sessions`'],
  },
  {
    method: 'post',
    path: '/sessions',
    about: 'Makes a session.',
    body: createSchema,
    answer: [201, '`id`, `name`'],
  },
  {
    method: 'post',
    path: '/sessions/import',
    about: 'Brings a package in: its ZIP as the body, or a resumable upload.',
    query: uploadQuery,
    body: 'package',
    answer: [201, '`id`, `name`'],
  },
  {
    method: 'get',
    path: '/sessions/:id',
    about: 'A session by id or name.',
    answer: [200, '`id`, `revision`, `document`'],
  },
  {
    method: 'post',
    path: '/sessions/:id/open',
    least: 'listen',
    about:
      'A session for a window: its document, history, what can be undone and redone, and facts of its stems.',
    answer: [200, '`revision`, `history`, `undo`, `redo`, `stems`, `document`'],
  },
  {
    method: 'get',
    path: '/sessions/:id/state',
    about: 'The same without its stems; it does not count as opening.',
    answer: [200, '`revision`, `history`, `undo`, `redo`, `document`'],
  },
  {
    method: 'delete',
    path: '/sessions/:id',
    about: 'Deletes a session for good, and the stems that it alone named.',
    answer: [204, 'nothing'],
  },
  {
    method: 'get',
    path: '/sessions/:id/changes',
    about: 'Changes after a revision; `more` says that there are too many to be told one by one.',
    query: afterQuery,
    answer: [200, '`changes`, `more`'],
  },
  {
    method: 'get',
    path: '/sessions/:id/uses',
    about: 'Which strips hands reached for in the last hours, and when, told from the edits that are kept.',
    query: usesQuery,
    answer: [200, '`uses`'],
  },
  {
    method: 'get',
    path: '/sessions/:id/changes/:change',
    about: 'One change by the name that its window gave it.',
    answer: [200, '`change`'],
  },
  {
    method: 'post',
    path: '/sessions/:id/commits',
    least: 'hands',
    about:
      'Keeps an edit, an undo or a redo, on the revision that it was made on. Sent again, it is acknowledged and not done twice. Commands: docs/fields.md.',
    body: commitSchema,
    answer: [200, '`change`'],
  },
  {
    method: 'get',
    path: '/sessions/:id/export',
    about: 'A session as a package.',
    answer: [200, 'a ZIP'],
  },
  {
    method: 'post',
    path: '/stems',
    about:
      'Brings an audio file in: as the body, or a resumable upload. What is there already, which `/stems/known` tells, need not be sent.',
    query: stemQuery,
    body: 'wav',
    answer: [
      201,
      '`stem`, its address, and its facts; in `stems` all that it became, where it has more than two channels',
    ],
  },
  {
    method: 'post',
    path: '/stems/known',
    about:
      'Facts of those stems, of so many that are named, that are there; they are kept for a day without a session.',
    body: knownSchema,
    answer: [200, '`stems`, by address'],
  },
  {
    method: 'post',
    path: '/stems/slices',
    least: 'listen',
    about:
      'Parts of many stems in one answer, in the order in which they are asked for, as each is kept: before each 16 bytes that tell of it.',
    body: slicesSchema,
    answer: [200, 'the slices'],
  },
  {
    method: 'get',
    path: '/stems/:address',
    about: 'Facts of a stem.',
    answer: [200, '`channels`, `sampleRate`, `frames`, `overview`, `spans`, `begins`'],
  },
  {
    method: 'get',
    path: '/stems/:address/pcm',
    about: 'Frames of a stem: 32-bit floats, little-endian, interleaved.',
    query: pcmQuery,
    answer: [200, 'the frames'],
  },
  {
    method: 'get',
    path: '/stems/:address/file',
    about: 'A stem as a WAV file of its own depth. Parts of it by `Range`, as RFC 9110 has it.',
    query: fileQuery,
    answer: [200, 'the file; 206: the part of it'],
  },
  {
    method: 'get',
    path: '/surface-profiles',
    about: 'Profiles by which control surfaces speak.',
    answer: [200, '`profiles`'],
  },
  {
    method: 'put',
    path: '/surface-profiles/:id',
    about: 'Keeps a profile.',
    body: PROFILE,
    answer: [200, '`profile`'],
  },
  {
    method: 'delete',
    path: '/surface-profiles/:id',
    about: 'Removes a profile that was kept.',
    answer: [204, 'nothing'],
  },
  {
    method: 'get',
    path: '/desks',
    about: 'Desks of control surfaces.',
    answer: [200, '`desks`'],
  },
  {
    method: 'put',
    path: '/desks/:id',
    about: 'Keeps a desk: its units, and how they work together.',
    body: DESK,
    answer: [200, '`desk`'],
  },
  {
    method: 'delete',
    path: '/desks/:id',
    about: 'Removes a desk.',
    answer: [204, 'nothing'],
  },
  {
    method: 'get',
    path: '/access',
    least: 'none',
    about:
      'Who asks, and what that one may do; at the machine itself also who was let in, and by what addresses it can be reached.',
    answer: [200, '`own`, `role`, `name`, `open`, `addresses`, `code`, `devices`'],
  },
  {
    method: 'put',
    path: '/access',
    least: 'own',
    about: 'Opens Zonula to other machines of the network, or closes it.',
    body: openSchema,
    answer: [200, 'the same'],
  },
  {
    method: 'post',
    path: '/access/code',
    least: 'own',
    about: 'Shows a code that lets machines in for ten minutes, with a role.',
    body: codeSchema,
    answer: [200, '`code`, `role`, `until`'],
  },
  {
    method: 'delete',
    path: '/access/code',
    least: 'own',
    about: 'Ends the code.',
    answer: [204, 'nothing'],
  },
  {
    method: 'post',
    path: '/access/pair',
    least: 'none',
    about: 'Lets this machine in by the code. The answer sets a cookie.',
    body: pairSchema,
    answer: [200, '`own`, `role`, `name`'],
  },
  {
    method: 'post',
    path: '/access/leave',
    least: 'listen',
    about: 'Takes this machine off again.',
    answer: [204, 'nothing'],
  },
  {
    method: 'put',
    path: '/access/devices/:id',
    least: 'own',
    about: 'Gives a machine that was let in another name, or another role.',
    body: deviceSchema,
    answer: [200, '`device`'],
  },
  {
    method: 'delete',
    path: '/access/devices/:id',
    least: 'own',
    about: 'Takes a machine off that was let in.',
    answer: [204, 'nothing'],
  },
  {
    method: 'get',
    path: '/osc',
    about:
      'Whether OSC is switched on, which controllers have spoken, and how many messages were taken: see docs/osc.md.',
    answer: [200, '`on`, `host`, `port`, `session`, `controllers`, `taken`, `dropped`, `broken`, `wanted`'],
  },
  {
    method: 'put',
    path: '/osc',
    least: 'own',
    about: 'Switches OSC on or off.',
    body: oscSwitchSchema,
    answer: [200, 'the same'],
  },
  {
    method: 'get',
    path: '/preamps',
    about: 'What is known of the inputs of the preamplifier, which is a simulated one.',
    answer: [200, '`simulated`, `connected`, `states`'],
  },
  {
    method: 'post',
    path: '/preamps',
    about: 'Asks an input of the preamplifier for its settings.',
    body: fieldSchemas.strip.preamp,
    answer: [200, '`state`'],
  },
  { method: 'get', path: '/presets', about: 'Presets that were kept.', answer: [200, '`presets`'] },
  {
    method: 'post',
    path: '/presets',
    about: 'Keeps a preset.',
    body: PRESET,
    answer: [201, '`id`, `preset`'],
  },
  {
    method: 'put',
    path: '/presets/:id',
    about: 'Changes a preset.',
    body: PRESET,
    answer: [200, '`id`, `preset`'],
  },
  {
    method: 'delete',
    path: '/presets/:id',
    about: 'Removes a preset.',
    answer: [204, 'nothing'],
  },
];

/** What a refusal's status says; see errors.ts. */
const REFUSALS: readonly string[] = [
  '400: not understood, as a field is missing or has another form',
  "403: not from the server's own pages",
  '404: there is no such thing, or no more',
  '409: the session has moved on, and what was missed is told; or something stands twice',
  '413: too large',
  '422: it would break a rule, which is named',
  '500: something failed, and the log says what',
  '503: the database, or a device, is away for the moment: come again',
  '507: no room on the disk',
];

const asSchema = (schema: Schema): Json => convert(schema, 'open-api-3.1') as Json;

function bodyOf(body: NonNullable<RouteFacts['body']>): Json {
  if (body === 'wav') return { 'audio/wav': { schema: { type: 'string', format: 'binary' } } };
  if (body === 'package') return { 'application/zip': { schema: { type: 'string', format: 'binary' } } };
  return { 'application/json': { schema: 'json' in body ? body.json : asSchema(body) } };
}
const leastOf = ({ least, method }: RouteFacts): Least => least ?? (method === 'get' ? 'listen' : 'mix');
const shapes = ROUTES.map((route) => ({
  method: route.method.toUpperCase(),
  path: new RegExp(`^${route.path.replace(/:\w+/g, '[^/]+')}/?$`),
  least: leastOf(route),
}));
/** Who may ask for something. What is no route is asked for by who may do everything alone. */
export const leastFor = (method: string, path: string): Least =>
  shapes.find((s) => s.method === (method === 'HEAD' ? 'GET' : method) && s.path.test(path))?.least ?? 'mix';
const WHO: Readonly<Record<Least, string>> = {
  none: 'anybody',
  listen: 'who may listen',
  hands: 'who may lay hands on the mix',
  mix: 'who may do everything',
  own: 'nobody: it is done at the machine itself',
};

function operation(route: RouteFacts): Json {
  const { path, about, query, body, answer } = route;
  const named = [...path.matchAll(/:(\w+)/g)].map(([, name]) => ({
    name,
    in: 'path',
    required: true,
    schema: { type: 'string' },
  }));
  const { properties = {}, required = [] } = (query ? asSchema(query) : {}) as {
    properties?: Readonly<Record<string, Json>>;
    required?: readonly string[];
  };
  const asked = Object.entries(properties).map(([name, schema]) => ({
    name,
    in: 'query',
    required: required.includes(name),
    schema,
  }));
  const [status, holds] = answer;
  return {
    summary: about,
    description: `From other machines: ${WHO[leastOf(route)]}.`,
    parameters: [...named, ...asked],
    ...(body
      ? { requestBody: { required: body !== 'wav' && body !== 'package', content: bodyOf(body) } }
      : {}),
    responses: {
      [status]: { description: holds },
      default: {
        description: `A refusal. ${REFUSALS.join('; ')}.`,
        content: { 'application/json': { schema: { $ref: '#/components/schemas/Error' } } },
      },
    },
  };
}

/** The API as OpenAPI 3.1, from the schemas by which its routes judge requests. */
export function apiDocument(version: string): Json {
  const paths: Record<string, Record<string, Json>> = {};
  for (const route of ROUTES) {
    const path = route.path.replace(/:(\w+)/g, '{$1}');
    (paths[path] ??= {})[route.method] = operation(route);
  }
  return {
    openapi: '3.1.0',
    info: {
      title: 'Zonula',
      version,
      description:
        'Sessions, stems, presets, surfaces. Large files may come by resumable uploads (tus 1.0) at /uploads. What windows tell each other while a hand moves goes by a socket: docs/live.md.',
    },
    servers: [{ url: '/api' }],
    paths,
    components: {
      schemas: {
        Error: {
          type: 'object',
          properties: {
            error: {
              type: 'object',
              properties: { code: { type: 'string' }, message: { type: 'string' } },
              required: ['code', 'message'],
            },
          },
          required: ['error'],
        },
      },
    },
  };
}

const escaped = (text: string) =>
  text.replace(/[&<>"]/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[c]!);

/** The same as a page to read, without any script. */
export function apiPage(version: string): string {
  const rows = ROUTES.map((route) => {
    const { parameters, requestBody, responses } = operation(route) as Record<string, unknown>;
    const details = JSON.stringify({ parameters, requestBody, responses }, null, 2);
    return `<details><summary><code>${route.method.toUpperCase()} /api${escaped(route.path)}</code> ${escaped(route.about).replace(/`([^`]*)`/g, '<code>$1</code>')}</summary><pre>${escaped(details)}</pre></details>`;
  });
  return `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Zonula: the API</title><style>
html{color-scheme:light dark}body{font:15px/1.5 'Atkinson Hyperlegible Next',sans-serif;max-width:60rem;margin:2rem auto;padding:0 1rem}
code{font-weight:bold}summary{padding:.3rem 0;cursor:pointer}pre{overflow:auto;border-left:2px solid;padding-left:1rem}
</style></head><body><h1>Zonula ${escaped(version)}: the API</h1>
<p>For programs: <a href="openapi.json">openapi.json</a>, OpenAPI 3.1.</p>${rows.join('\n')}</body></html>`;
}
