import { useStorage } from '@vueuse/core';
import { useRouter } from 'vue-router';
import { keyRoles } from '@core/surface/keys/registry';
import { reachRole } from '@core/surface/keys/reach';
import { reaches } from '@core/surface/reaches/registry';
import { withPins } from '@core/operations/pins';
import { lazy, type Action, type Feature } from '@/commands/feature';
import { useDialogs } from '@/commands/dialogs';
import { usePick } from '@/session/pick';
import { useSession } from '@/session/session';
import { say } from './texts';

/** The desk is fetched when it is asked for, and a moment after the session has opened: its devices work from every view. */
const SOON_MS = 1200;
const desk = async () => (await import('./useSurface')).useSurface();

/** Keys of the page at first; the reaches have theirs by their order. */
const KEYS: Readonly<Record<string, string>> = {
  bankLeft: '[',
  bankRight: ']',
  nudgeLeft: '{',
  nudgeRight: '}',
  toFirst: 'Alt+[',
  toLast: 'Alt+]',
  join: 'Shift+J',
  flip: 'Shift+Y',
  lock: 'Shift+Q',
  ...Object.fromEntries(reaches.map((r, i) => [reachRole(r.id), `Shift+F${i + 1}`])),
};
/** What the page does by actions of its own, what is held, and what only a key of the device can mean. */
const ELSEWHERE = new Set([
  'play',
  'stop',
  'loop',
  'undo',
  'redo',
  'hide',
  'showAll',
  'link',
  'pinLeft',
  'pinRight',
  'user',
  'action',
]);

function surfaceActions(): readonly Action[] {
  const session = useSession();
  const pick = usePick();
  const router = useRouter();
  const ofRoles = keyRoles
    .filter((r) => r.of === 'unit' && (r.press ?? r.release) && !ELSEWHERE.has(r.id))
    .map((r): Action => ({
      id: r.id,
      title: say('surfaceName', { name: r.name }),
      keys: KEYS[r.id] ?? '',
      group: 'Surface',
      run: async () => (await desk()).press(r.id),
    }));
  const pin = (side: 'left' | 'right'): Action => ({
    id: side === 'left' ? 'pinLeft' : 'pinRight',
    title: say(side === 'left' ? 'pinPickedStripsLeft' : 'pinPickedStripsRight'),
    keys: '',
    group: 'Surface',
    run: (given) => session.perform((s) => withPins(s, given?.strips ?? pick.picked, side)),
  });
  const dialogs = useDialogs();
  const layouts: Action = {
    id: 'layouts',
    title: say('surfacePinsAndLayouts'),
    keys: '',
    group: 'Surface',
    run: () => dialogs.show('layouts'),
  };
  const learn: Action = {
    id: 'learnController',
    title: say('learnController'),
    keys: '',
    group: 'Surface',
    async run() {
      await router.push(`/session/${session.id}/surface`);
      (await import('./useLearning')).useLearning().start();
    },
  };
  const hands: Action = {
    id: 'openHands',
    title: say('openHands'),
    keys: '',
    group: 'Surface',
    run: () => void window.open(`/session/${session.id}/hands`, '_blank', 'noopener'),
  };
  const side = useStorage('zonula.surfaceSide', 'auto');
  const osc: Action = {
    id: 'surfaceOsc',
    title: say('surfaceOsc'),
    keys: '',
    group: 'Surface',
    async run() {
      side.value = 'osc';
      await router.push(`/session/${session.id}/surface`);
    },
  };
  return [...ofRoles, pin('left'), pin('right'), layouts, learn, hands, osc];
}

/** Control surfaces. */
export const surface: Feature = {
  actions: surfaceActions,
  setup: () => void setTimeout(() => void desk(), SOON_MS),
  dialogs: { layouts: lazy(() => import('./LayoutsDialog.vue')) },
};
