import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useSettings } from '@/session/settings';
import type { MenuItem } from '@/ui/menu';
import { features, views, type Action, type Given } from './feature';
import { keyName, keyShown } from './keys';
import { say } from './texts';

/** Everything that can be done by key, by the palette and by the bar of what is picked: one list, of all features. */
export const useCommands = defineStore('commands', () => {
  const settings = useSettings();
  const router = useRouter();
  /** Whether the palette, and the table of shortcuts, are open. */
  const palette = ref(false);
  const shortcuts = ref(false);

  const all: readonly Action[] = [
    ...features().flatMap((f) => f.actions?.() ?? []),
    ...views().map((view): Action => ({
      id: view.name,
      title: say('goToTitle', { title: view.title }),
      keys: view.keys,
      group: 'View',
      run: () => router.push({ name: view.name }),
    })),
    {
      id: 'palette',
      title: say('findStripAction'),
      keys: 'Ctrl+K',
      group: 'View',
      run: () => (palette.value = true),
    },
    {
      id: 'shortcuts',
      title: say('showAndChangeShortcuts'),
      keys: '?',
      group: 'View',
      run: () => (shortcuts.value = true),
    },
  ];
  const byId = new Map(all.map((a) => [a.id, a]));
  /** Actions that a person can ask for. */
  const list = all.filter((a) => !a.inner);
  const scopes = features().flatMap((f) => f.keys?.() ?? []);
  const scoped = new Map(scopes.flatMap((s) => s.keys.map((k) => [k.id, k] as const)));

  const action = (id: string): Action => {
    const found = byId.get(id);
    if (!found) throw new Error(say('thereNoActionId', { id }));
    return found;
  };
  /** The keys that an action has now; empty where it has none. */
  const keysOf = (id: string) =>
    settings.shortcuts[id] ?? byId.get(id)?.keys ?? scoped.get(id)?.keys[0] ?? '';
  /** Runs an action, on what is given or on what is picked. */
  const run = (id: string, given?: Given) => action(id).run(given);

  /** Runs what a key press stands for. @returns whether it stood for anything */
  function press(e: KeyboardEvent): boolean {
    const name = keyName(e);
    const found = list.find((a) => keysOf(a.id) === name);
    if (!found) return false;
    if (found.enabled?.() !== false) found.run();
    return true;
  }
  /** For each scope, the names of its keys by what is pressed. */
  const pressed = computed(
    () =>
      new Map(
        scopes.map((s) => [
          s.scope,
          new Map(
            s.keys.flatMap((k) =>
              (settings.shortcuts[k.id] !== undefined ? [settings.shortcuts[k.id]!] : k.keys).map(
                (keys) => [keys, k.id.slice(s.scope.length + 1)] as const,
              ),
            ),
          ),
        ]),
      ),
  );
  /** What a key press stands for while a part of the page has the keyboard; undefined where it stands for nothing. */
  const keyIn = (scope: string, e: KeyboardEvent): string | undefined =>
    pressed.value.get(scope)?.get(keyName(e));

  /** Gives an action or a scope's key other keys; within the page, and within a scope, keys mean one thing. */
  function setKeys(id: string, keys: string) {
    const next = { ...settings.shortcuts };
    const scope = scopes.find((s) => s.keys.some((k) => k.id === id));
    for (const other of scope ? scope.keys.map((k) => k.id) : list.map((a) => a.id))
      if (other !== id && keysOf(other) === keys) next[other] = '';
    next[id] = keys;
    settings.shortcuts = next;
  }
  const resetKeys = () => (settings.shortcuts = {});

  /** Actions as lines of a menu. */
  const menuItems = (ids: readonly string[], given?: Given): MenuItem[] =>
    ids.map(action).map((a) => ({
      label: a.title,
      keys: keyShown(keysOf(a.id)),
      danger: a.id === 'remove',
      run: () => void a.run(given),
    }));

  return {
    palette,
    shortcuts,
    list,
    scopes,
    action,
    keysOf,
    run,
    press,
    keyIn,
    setKeys,
    resetKeys,
    menuItems,
  };
});
