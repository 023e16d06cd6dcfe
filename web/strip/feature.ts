import type { Feature } from '@/commands/feature';
import { stripActions } from './actions';
import LinkDialog from './LinkDialog.vue';
import PasteDialog from './PasteDialog.vue';
import PickBar from './PickBar.vue';
import PresetsDialog from './presets/PresetsDialog.vue';
import RenameDialog from './RenameDialog.vue';
import ReturnDialog from './ReturnDialog.vue';
import SendsDialog from './SendsDialog.vue';
import StripHead from './StripHead.vue';
import StripPanel from './StripPanel.vue';
import TidyDialog from './TidyDialog.vue';

/** Strips: what is done with the picked ones, and everything of one of them. */
export const strip: Feature = {
  actions: stripActions,
  dialogs: {
    sends: SendsDialog,
    return: ReturnDialog,
    rename: RenameDialog,
    tidy: TidyDialog,
    paste: PasteDialog,
    presets: PresetsDialog,
    link: LinkDialog,
  },
  panels: [
    { tab: 'strip', component: StripHead },
    { tab: 'strip', component: StripPanel, rank: 2 },
  ],
  bars: [PickBar],
};
