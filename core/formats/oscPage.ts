import { newInsert, newSend, newSession, newStrip, newVca } from '../session/defaults';
import type { Session } from '../session/types';
import { type OscBranch, type OscLeaf, type OscNode, type OscWorld } from '../osc/address';
import { USUAL } from '../osc/telling';
import { BANK_SIZE, MOST_MEANT, oscRoot } from '../osc/tree';
import { processors } from '../processors/registry';
import { parameterName } from '../processors/text';

/** A session that has one of everything. */
function example(): Session {
  const empty = newSession('Example', 48_000);
  const echo = newStrip({ id: 'echo', kind: 'return', name: 'Echo', out: { to: null, on: true } });
  const strip = {
    ...newStrip({ id: 'lead', kind: 'source', name: 'Lead voice', out: { to: null, on: true } }),
    sends: [newSend({ id: 'lead-to-echo', to: 'echo' })],
    inserts: [newInsert({ id: 'squeeze', type: 'compressor' })],
  };
  return {
    ...empty,
    strips: [strip, echo, ...empty.strips],
    vcas: [newVca({ id: 'voices', name: 'Voices', members: ['lead'] })],
  };
}
export const EXAMPLE: OscWorld = {
  session: example(),
  bank: { first: 0, size: BANK_SIZE },
  transport: { there: true, rolling: false, position: 0, looping: false },
};

const PLACES: Readonly<Record<string, string>> = {
  strip: '{strip}',
  vca: '{vca}',
  send: '{send}',
  insert: '{insert}',
  bank: '{fader}',
};
/** An address with what stands for all numbers in it. */
const general = (address: string) =>
  address.replace(
    /\/(strip|vca|send|insert|bank)\/1(?=\/|$)/g,
    (_, part: string) => `/${part}/${PLACES[part]}`,
  );

/** Every leaf below a branch; of things that have numbers the first. What lies under a control is left out: it is the same for all. */
function leavesOf(node: OscNode): readonly OscLeaf[] {
  if ('address' in node) return [node];
  return childrenOf(node).flatMap(leavesOf);
}
const childrenOf = (node: OscBranch) =>
  node
    .names()
    .filter(([name]) => !/^\d+$/.test(name!) || name === '1')
    .flatMap(([name]) => node.find(name!) ?? []);

const way = ({ tell, take }: OscLeaf) => (tell && take ? 'told, taken' : tell ? 'told' : 'taken');
const lines = (leaves: readonly OscLeaf[]) => [
  '| address | holds | | |',
  '| --- | --- | --- | --- |',
  ...leaves
    .filter((l) => l.about)
    .map((l) => `| \`${general(l.address)}\` | ${l.holds} | ${way(l)} | ${l.about} |`),
  '',
];

/** All addresses of OSC, from the tree by which they are looked up: docs/osc.md. */
export function oscPage(): string {
  const root = oscRoot(EXAMPLE);
  const at = (name: string) => root.find(name)!;
  const strip = leavesOf(at('strip'));
  const part = (which: string) => strip.filter((l) => l.address.includes(`/${which}/`));
  const bank = at('bank') as OscBranch;
  return [
    '# OSC',
    '',
    '<!-- Written by `npm run docs` from core/osc. -->',
    '',
    'Any controller that speaks Open Sound Control 1.0 over UDP can steer the session: a tablet’s fader page, a box of knobs, a script. It is',
    'switched on in the Surface view, under *OSC*; until then nothing listens. It listens on this machine alone (127.0.0.1, port 9000 unless another is',
    'chosen), and in the studio’s network where that was opened and the machine was let in: see [security](security.md).',
    '',
    'To try it without any: `bin/zonula osc-desk` is a desk of faders in a terminal, and the panel in the Surface view has a simulated',
    'controller. Both send real packets.',
    '',
    '## Addresses',
    '',
    'Steered is the session that a window of the page opened last.',
    '',
    'Strips, VCAs, sends and inserts go by number, from 1, in the session’s order (hidden ones count), or by name: `/strip/3/level` and',
    '`/strip/Lead_voice/level` are the same. In names, spaces and `# * , / ? [ ] { }` become `_`, letters lose their accents, and of two with one',
    'name the second ends in `_2`; a name that is a number has `_` before it. A send goes by the name of where it leads, an insert by that of its',
    'processor.',
    '',
    'Under every control lie two more addresses: `…/travel`, where it stands on its way, 0 to 1, as a fader of a controller goes, told and taken; and',
    '`…/text`, its value as it is written, told. `/strip/3/level/travel 0.75` puts the fader to three quarters of its way, and',
    '`/strip/3/level "-6 dB"` does what it says.',
    '',
    'Types taken and told: `f` and `i` numbers, `s` text, `T` and `F` on and off, `N` silence. Numbers out of range are brought into it. A control',
    'takes text as it is typed in the page.',
    '',
    'An address without an argument asks: the answer goes to who asked. An address may be a pattern, as OSC 1.0 has them: `?`, `*`, `[a-c]`, `[!a-c]`,',
    `\`{one,two}\`; \`/strip/*/mute\` with \`F\` opens all. One pattern means ${MOST_MEANT} addresses at most.`,
    '',
    '### Strips',
    '',
    ...lines(strip.filter((l) => !/\/(send|insert)\//.test(l.address))),
    '### Sends',
    '',
    ...lines(part('send')),
    '### Inserts',
    '',
    ...lines(part('insert')),
    'Beside these, every parameter of the processor by its id, in its unit; choices go by number from 0, or by name:',
    '',
    ...processors.map(
      (p) =>
        `- [${p.type}](processors/${p.type}.md): ${p.parameters.map((x) => `\`${x.id}\` (${parameterName(x, p.parameters)})`).join(', ')}`,
    ),
    '',
    '### VCAs',
    '',
    ...lines(leavesOf(at('vca'))),
    '### The bank',
    '',
    'Each controller has a bank of its own: what lies under its faders, out of all strips and VCAs that are shown, in the Sheet’s order.',
    'Under `/bank/{fader}` lies everything that lies under the strip, or the VCA, that is there; of an empty place the name alone is told, and it is empty.',
    '',
    ...lines(leavesOf(bank).filter((l) => !/^\/bank\/1\//.test(l.address))),
    '### Transport',
    '',
    'The window that plays is asked: where none has the session open, that is refused.',
    '',
    ...lines(leavesOf(at('transport'))),
    '### Session, undo, and who is told',
    '',
    ...lines(
      ['session', 'undo', 'redo', 'subscribe', 'unsubscribe', 'pair'].flatMap((name) => leavesOf(at(name))),
    ),
    '## What is kept',
    '',
    'A move is heard at once and shown in every window. It is kept, as one step of undo, when the control has rested for 0.4 s. What comes in one bundle is',
    'one step. Links move along. Of two hands on one control the one that moved last is heard, and each is a step of its own.',
    '',
    'A bundle whose time tag lies ahead waits for it, for a minute at most. Of one address the last value holds, however many come: 5,000 messages a',
    'second are taken, and beyond 20,000 packets a second they are thrown away and counted.',
    '',
    '## Being told',
    '',
    '`/subscribe` has what changes sent to where it came from, as bundles of at most 1,400 bytes: first everything, then what changes. Behind it may stand, in',
    'any order, address patterns, `names` (patterns are answered by names, not by numbers), `plain` (switches as 1 and 0, silence as −200, for controllers that know',
    'numbers alone), and a number, the port to send to. Without patterns it is what a desk of faders shows:',
    '',
    ...USUAL.map((p) => `- \`${p}\``),
    '',
    'The answer is `/subscribed 60`: so many seconds after the last message of any kind a controller is told no more; `/subscribe` again goes on. What a',
    'controller moves itself is not sent back to it until the move is kept; its text is.',
    '',
    'What cannot be done is answered with `/refused`, the address, and why: ten times a second at most, and only to who has been understood before.',
    '',
  ].join('\n');
}
