import convert from 'joi-to-json';
import { WINDOW_MESSAGES } from './messages';

/** What the server tells windows; it is answered by none of them. */
const TOLD: readonly (readonly [name: string, holds: string, when: string])[] = [
  [
    'commit',
    'the change: `revision`, `changeId`, `kind`, `label`, `commands`, `inverse`',
    'an edit of the joined session was kept',
  ],
  ['live', '`from`, the window; `drag`; `commands`, null at its end', 'a hand in another window moves'],
  ['joined', '`from`', 'another window has joined: one that plays says where it stands'],
  ['playing', '`from`; `rolling`, `position`, `looping`, `loop`', 'a window that plays says where it stands'],
  ['transport', '`from`; `ask`, `at`', 'this window plays, and another asks it for something'],
  ['gone', '`from`', 'a window has left: its drags have ended'],
  ['deleted', 'nothing', 'the session was deleted'],
  [
    'preamp',
    'what is known of an input of the preamplifier; the one of the higher `order` holds',
    'an input has answered, or is silent',
  ],
  [
    'oscStandIn',
    '`messages`, each with `address` and `args`',
    'the simulated OSC controller of this window was told something',
  ],
  ['refused', '`error` with `code` and `message`', 'a message was not understood; nothing came of it'],
];

/** docs/live.md, from the schemas by which messages are judged. */
export function livePage(): string {
  const said = Object.entries(WINDOW_MESSAGES).map(([name, { about, shape }]) => {
    const schema = convert(shape, 'open-api-3.1') as {
      properties: Record<string, unknown>;
      required?: readonly string[];
    };
    // What a command may be is told elsewhere: see docs/fields.md.
    const { commands, ...others } = schema.properties;
    const properties = commands
      ? { ...others, commands: { type: ['array', 'null'], items: 'a command' } }
      : others;
    return [
      `### \`${name}\``,
      '',
      about,
      '',
      '```json',
      JSON.stringify({ required: schema.required ?? [], properties }, null, 2),
      '```',
      '',
    ].join('\n');
  });
  return [
    '# What windows tell each other',
    '',
    '<!-- Written by `npm run docs` from server/live. -->',
    '',
    'Edits go by HTTP (openapi.json). What need not be kept goes by a socket, Socket.IO at `/socket`: where a hand stands while it moves, and',
    'word of what was kept. A window that was away asks for the changes that it missed.',
    '',
    '## What a window says',
    '',
    ...said,
    '## What it is told',
    '',
    '| message | holds | when |',
    '| --- | --- | --- |',
    ...TOLD.map(([name, holds, when]) => `| \`${name}\` | ${holds} | ${when} |`),
    '',
  ].join('\n');
}
