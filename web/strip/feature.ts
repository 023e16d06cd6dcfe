import { lazy, type Feature } from '@/commands/feature';
import { stripActions } from './actions';
import PickBar from './PickBar.vue';
import StripHead from './StripHead.vue';
import StripPanel from './StripPanel.vue';

/** Strips: what is done with the picked ones, and everything of one of them. */
export const strip: Feature = {
  actions: stripActions,
  dialogs: {
    sends: lazy(() => import('./SendsDialog.vue')),
    feeds: lazy(() => import('./FeedsDialog.vue')),
    return: lazy(() => import('./ReturnDialog.vue')),
    icon: lazy(() => import('./IconDialog.vue')),
    rename: lazy(() => import('./RenameDialog.vue')),
    tidy: lazy(() => import('./TidyDialog.vue')),
    paste: lazy(() => import('./PasteDialog.vue')),
    presets: lazy(() => import('./presets/PresetsDialog.vue')),
    link: lazy(() => import('./LinkDialog.vue')),
  },
  panels: [
    { tab: 'strip', component: StripHead },
    { tab: 'strip', component: StripPanel, rank: 2 },
  ],
  bars: [PickBar],
};
