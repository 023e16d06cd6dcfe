import { beforeEach, expect, it } from 'vitest';
import { nextTick } from 'vue';
import { usePick } from '@/session/pick';
import { useSettings } from '@/session/settings';
import { newPage } from '@/testing/stores';
import { useInspector } from './inspector';

beforeEach(() => {
  newPage();
  const settings = useSettings();
  settings.inspector = true;
  settings.inspectorRests = false;
});

it('stands always, until it is asked to give its width back while nothing is picked', async () => {
  const inspector = useInspector();
  const pick = usePick();
  expect(inspector.open).toBe(true);
  inspector.toggleRest();
  expect(inspector.open).toBe(false);
  pick.chosen = new Set(['a']);
  await nextTick();
  expect(inspector.open).toBe(true);
  pick.chosen = new Set();
  await nextTick();
  expect(inspector.open).toBe(false);
  // What is not about the picked strip stays.
  inspector.tab = 'session';
  expect(inspector.open).toBe(true);
  inspector.tab = 'strip';
  // Opened by hand it is there until something else is picked.
  inspector.toggle();
  expect(inspector.open).toBe(true);
  pick.chosen = new Set(['b']);
  await nextTick();
  pick.chosen = new Set();
  await nextTick();
  expect(inspector.open).toBe(false);
  inspector.show('strip');
  expect(inspector.open).toBe(true);
  inspector.toggleRest();
  expect([inspector.open, useSettings().inspectorRests]).toEqual([true, false]);
});

it('closed by hand it stays closed, whatever is picked', async () => {
  const inspector = useInspector();
  inspector.toggle();
  expect(inspector.open).toBe(false);
  usePick().chosen = new Set(['a']);
  await nextTick();
  expect(inspector.open).toBe(false);
  inspector.toggle();
  expect(inspector.open).toBe(true);
});
