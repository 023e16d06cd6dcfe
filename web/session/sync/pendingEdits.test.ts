import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { newPage, type Page } from '@/testing/stores';
import { PendingEdits } from './pendingEdits';

const change = { changeId: 'c1', kind: 'edit' as const, label: 'mute A', commands: [] };
const aside = { session: 'one', change, reason: 'refused' };
let page: Page;
let edits: PendingEdits;
beforeEach(() => {
  page = newPage();
  edits = new PendingEdits('mine');
});
afterEach(() => {
  edits.close();
  vi.unstubAllGlobals();
});

describe('edits that the browser keeps', () => {
  it('that are damaged are put aside with what is left of them, and told once', () => {
    page.storage.setItem('zonula.pending.one.gone', '[{"changeId": "c0", "la');
    const { left, taken } = edits.takeOver('one');
    taken();
    expect(left).toEqual([]);
    const [found] = edits.aside('one');
    expect(found).toMatchObject({ reason: expect.stringMatching(/damaged/) });
    expect(found!.change).toMatchObject({ text: '[{"changeId": "c0", "la' });
    expect(page.keptUnder('zonula.pending.one')).toEqual([]);
  });
  it('stay where they are where there is no room to put them aside', () => {
    page.storage.setItem('zonula.pending.one.gone', 'nonsense');
    const set = vi.spyOn(page.storage, 'setItem').mockImplementation(() => {
      throw new DOMException('full', 'QuotaExceededError');
    });
    edits.takeOver('one').taken();
    set.mockRestore();
    expect(page.keptUnder('zonula.pending.one')).toEqual(['nonsense']);
  });
  it('none of a list is taken where one of it is damaged: the list is put aside whole', () => {
    page.storage.setItem('zonula.pending.one.gone', JSON.stringify([change, { label: 'no id' }]));
    expect(edits.takeOver('one').left).toEqual([]);
    expect(edits.aside('one')).toHaveLength(1);
  });
  it('that were put aside and are damaged are told as such, with what is left of them', () => {
    edits.putAside(aside);
    page.storage.setItem('zonula.aside.one.other', '{"change": 1}');
    const found = edits.aside('one');
    expect(found.map((a) => a.change.label)).toEqual(['mute A', 'an edit that was put aside']);
    expect(found[1]!.change).toMatchObject({ text: '{"change": 1}' });
    edits.discard('one');
    expect(edits.aside('one')).toEqual([]);
  });
  it('are none, without an error, where the browser keeps nothing at all', () => {
    vi.stubGlobal('localStorage', {
      get length(): number {
        throw new DOMException('denied', 'SecurityError');
      },
      getItem: () => null,
      setItem() {
        throw new DOMException('denied', 'SecurityError');
      },
      removeItem() {
        throw new DOMException('denied', 'SecurityError');
      },
    });
    expect(edits.keep('one', [])).toBe(true);
    expect(edits.putAside(aside)).toBe(false);
    expect(edits.takeOver('one').left).toEqual([]);
    expect(edits.aside('one')).toEqual([]);
  });
});
