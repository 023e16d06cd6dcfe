import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { newPage } from '@/testing/stores';
import { useCommands } from './commands';
import { setFeatures, setViews, type Action } from './feature';
import { keyScope } from './keyScopes';

vi.mock('vue-router', () => ({ useRouter: () => ({ push: vi.fn() }) }));

const press = (key: string, more: Partial<KeyboardEvent> = {}) =>
  ({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more }) as KeyboardEvent;
const run = vi.fn();
const action = (id: string, keys: string, more: Partial<Action> = {}): Action => ({
  id,
  title: id,
  keys,
  group: 'Strips',
  run: (given) => run(id, given),
  ...more,
});

beforeEach(() => {
  run.mockReset();
  newPage();
  setViews([{ name: 'sheet', title: 'Sheet', path: '', keys: '1', component: async () => ({}) }]);
  setFeatures([
    {
      actions: () => [
        action('mute', 'M'),
        action('gather', 'G', { enabled: () => false }),
        action('of', '', { inner: true }),
      ],
      keys: () => [
        keyScope('lane', 'On a lane', { more: ['Up', 'ArrowUp', '+'], remove: ['Out', 'Delete'] }),
        keyScope('curve', 'On a curve', { up: ['Up', 'ArrowUp'] }),
      ],
    },
  ]);
});
afterEach(() => vi.unstubAllGlobals());

describe('what can be done', () => {
  it('is run by its key, by its id with what it acts on, and not while it cannot be done', () => {
    const commands = useCommands();
    expect(commands.press(press('m'))).toBe(true);
    expect(run).toHaveBeenCalledWith('mute', undefined);
    run.mockReset();
    expect(commands.press(press('g'))).toBe(true);
    expect(run).not.toHaveBeenCalled();
    commands.run('of', { vca: 'choir' });
    expect(run).toHaveBeenCalledWith('of', { vca: 'choir' });
    expect(() => commands.run('nothing')).toThrow('There is no action `nothing`.');
    // What is asked for by other features alone is neither listed nor found by a key.
    expect(commands.list.map((a) => a.id)).toEqual(['mute', 'gather', 'sheet', 'palette', 'shortcuts']);
    expect(commands.press(press('y'))).toBe(false);
  });
  it('gets other keys: within the page one key means one thing', () => {
    const commands = useCommands();
    commands.setKeys('mute', 'G');
    expect(commands.keysOf('gather')).toBe('');
    commands.press(press('g'));
    expect(run).toHaveBeenCalledWith('mute', undefined);
    expect(commands.press(press('m'))).toBe(false);
    commands.resetKeys();
    expect(commands.keysOf('gather')).toBe('G');
  });
});

describe('keys of a part of the page', () => {
  it('mean something there alone, under all the names that they have at first', () => {
    const { keyIn } = useCommands();
    expect(keyIn('lane', press('ArrowUp'))).toBe('more');
    expect(keyIn('lane', press('+', { shiftKey: true }))).toBe('more');
    expect(keyIn('curve', press('ArrowUp'))).toBe('up');
    expect(keyIn('curve', press('Delete'))).toBeUndefined();
    expect(keyIn('elsewhere', press('ArrowUp'))).toBeUndefined();
    expect(keyIn('lane', press('ArrowUp', { ctrlKey: true }))).toBeUndefined();
  });
  it('can be changed, without taking a key from another part', () => {
    const commands = useCommands();
    commands.setKeys('lane.remove', 'ArrowUp');
    expect(commands.keyIn('lane', press('ArrowUp'))).toBe('remove');
    expect(commands.keysOf('lane.more')).toBe('');
    expect(commands.keyIn('lane', press('+'))).toBeUndefined();
    expect(commands.keyIn('lane', press('Delete'))).toBeUndefined();
    expect(commands.keyIn('curve', press('ArrowUp'))).toBe('up');
    // A letter that does something on the whole page may do something else here.
    commands.setKeys('lane.remove', 'M');
    expect(commands.keysOf('mute')).toBe('M');
  });
});
