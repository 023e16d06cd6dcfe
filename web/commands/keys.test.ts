import { describe, expect, it } from 'vitest';
import { keyName } from './keys';

const press = (key: string, more: Partial<KeyboardEvent> = {}) =>
  keyName({ key, ctrlKey: false, metaKey: false, altKey: false, shiftKey: false, ...more });

describe('the name of a key press', () => {
  it.each([
    [press('m'), 'M'],
    [press('M', { shiftKey: true }), 'Shift+M'],
    [press('z', { ctrlKey: true }), 'Ctrl+Z'],
    [press('Z', { metaKey: true, shiftKey: true }), 'Ctrl+Shift+Z'],
    [press(' '), 'Space'],
    [press('['), '['],
    [press('{', { shiftKey: true }), '{'],
    [press('?', { shiftKey: true }), '?'],
    [press('Home', { shiftKey: true }), 'Shift+Home'],
    [press('ö'), 'Ö'],
  ])('%s is %s', (got, want) => expect(got).toBe(want));
});
