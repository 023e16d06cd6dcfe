import { useRouter } from 'vue-router';
import type { Action } from '@/commands/feature';
import { useSettings, type RailRows, type SendRows } from '@/session/settings';
import { SHIPPED, useSheetView } from './sheetView';
import { say } from './texts';

/** A step of the keys. */
const STEP = 1.25;

const rails = (): readonly (readonly [RailRows, string])[] => [
  ['auto', say('railsAuto')],
  ['rows', say('railsRows')],
  ['braid', say('railsBraid')],
];
const sends = (): readonly (readonly [SendRows, string])[] => [
  ['auto', say('sendsAuto')],
  ['all', say('showAllSends')],
  ['used', say('sendsUsed')],
  ['loudest', say('sendsLoudestAlone')],
];

/** How far and near the Sheet is looked at, and what rows of it; nothing of it edits the session. */
export function viewActions(): readonly Action[] {
  const settings = useSettings();
  const view = useSheetView();
  const router = useRouter();
  const on = (id: string, title: string, keys: string, run: () => unknown): Action => ({
    ...{ id, title, keys, group: 'View' },
    run: async () => {
      await router.push({ name: 'sheet' });
      run();
    },
  });
  return [
    on('zoomIn', say('zoomIn'), 'Ctrl+ArrowRight', () => view.zoomBy(STEP)),
    on('zoomOut', say('zoomOut'), 'Ctrl+ArrowLeft', () => view.zoomBy(1 / STEP)),
    on('zoomWhole', say('zoomWhole'), 'O', view.toggleWhole),
    ...rails().map(([to, title]): Action => ({
      ...{ id: `rails-${to}`, title, keys: '', group: 'View' },
      enabled: () => settings.railRows !== to,
      run: () => (settings.railRows = to),
    })),
    ...sends().map(([to, title]): Action => ({
      ...{ id: `sends-${to}`, title, keys: '', group: 'View' },
      enabled: () => settings.sendRows !== to,
      run: () => (settings.sendRows = to),
    })),
    on('viewBalancing', say('viewBalancing'), 'Q', () => view.look(SHIPPED[0]!)),
    on('viewRouting', say('viewRouting'), 'Shift+A', () => view.look(SHIPPED[1]!)),
    on('views', say('viewsOfTheSheet'), 'A', () => (view.choosing = true)),
  ];
}
