import { expect, it } from 'vitest';
import type { Command } from '../../edits/commands';
import { newInsert, newSend, newSession, newStrip, newVca } from '../../session/defaults';
import type { Session } from '../../session/types';
import { keyUses, moverUses, steersName } from './functions';
import { touchedBy } from './touched';

const base = newSession('Touched');
const session: Session = {
  ...base,
  vcas: [newVca({ id: 'band', name: 'Band' })],
  strips: [
    newStrip({
      id: 'voice',
      kind: 'source',
      name: 'Voice',
      out: { to: 'main', on: true },
      sends: [newSend({ id: 'x', to: 'plate', tap: 'post', levelDb: -20 })],
      inserts: [newInsert({ id: 'c', type: 'compressor' })],
    }),
    newStrip({ id: 'hall', kind: 'return', name: 'Hall', out: { to: 'main', on: true } }),
    newStrip({ id: 'plate', kind: 'return', name: 'Plate', out: { to: 'main', on: true } }),
    ...base.strips,
  ],
};
const params = session.strips[0]!.inserts[0]!.params;
const ofVoice = (what: string, nth: number | null = null) => ({
  steers: { type: 'across', what, nth, of: 'strip', strip: 'voice' },
});

it.each<[Command, unknown]>([
  [{ type: 'strip.set', id: 'voice', patch: { faderDb: -3 } }, ofVoice('level')],
  [{ type: 'strip.set', id: 'voice', patch: { pan: 0.5 } }, ofVoice('pan')],
  [{ type: 'strip.set', id: 'voice', patch: { trimDb: 1 } }, ofVoice('trim')],
  [
    { type: 'vca.set', id: 'band', patch: { faderDb: -3 } },
    { steers: { type: 'across', what: 'level', nth: null, of: 'strip', strip: 'band' } },
  ],
  // The second of the returns: by its number, as another session has others.
  [{ type: 'send.set', strip: 'voice', id: 'x', patch: { levelDb: 0 } }, ofVoice('send', 1)],
  [
    {
      type: 'insert.set',
      strip: 'voice',
      id: 'c',
      patch: { params: { ...params, threshold: params.threshold! - 7 } },
    },
    {
      steers: {
        type: 'parameter',
        processor: 'compressor',
        parameter: 'threshold',
        of: 'picked',
        strip: null,
      },
    },
  ],
  [{ type: 'strip.set', id: 'voice', patch: { mute: true } }, { key: { role: 'mute', action: null } }],
  [{ type: 'strip.set', id: 'voice', patch: { name: 'Lead' } }, null],
  [{ type: 'send.set', strip: 'voice', id: 'gone', patch: { levelDb: 0 } }, null],
  [{ type: 'insert.set', strip: 'voice', id: 'c', patch: { on: false } }, null],
])('%j was touched: %j', (command, found) => {
  expect(touchedBy(session, [command])).toEqual(found);
});

it('every use that is offered has a name and an id of its own', () => {
  const uses = [...moverUses, ...keyUses([{ id: 'view.flow', title: 'Flow' }])];
  expect(new Set(uses.map((u) => u.id)).size).toBe(uses.length);
  expect(new Set(moverUses.map((u) => u.name)).size).toBe(moverUses.length);
  expect(uses.every((u) => u.name.trim().length > 1)).toBe(true);
  expect(
    steersName({ type: 'across', what: 'level', nth: null, of: 'strip', strip: 'voice' }, () => 'Voice'),
  ).toBe('Level, of Voice');
});
