import type { View } from '@/commands/feature';
import { say } from './texts';

/** The views of a session, in their order: the router, the top line, the palette and the keys follow from this list. */
export const VIEWS: readonly View[] = [
  {
    name: 'sheet',
    get title() {
      return say('sheet');
    },
    path: '',
    keys: '1',
    component: () => import('@/sheet/SheetView.vue'),
    around: ['inspector', 'picks'],
    get hint() {
      return say('clickNamesPickStripsShift');
    },
  },
  {
    name: 'flow',
    get title() {
      return say('flow');
    },
    path: 'flow',
    keys: '2',
    component: () => import('@/flow/FlowView.vue'),
    around: ['inspector', 'picks'],
    get hint() {
      return say('clickNodesPickThemCtrl');
    },
  },
  {
    name: 'automation',
    get title() {
      return say('automation');
    },
    path: 'automation',
    keys: '3',
    component: () => import('@/automation/AutomationView.vue'),
  },
  {
    name: 'surface',
    get title() {
      return say('surface');
    },
    path: 'surface',
    keys: '4',
    component: () => import('@/surface/SurfaceView.vue'),
  },
  {
    name: 'findings',
    get title() {
      return say('findings');
    },
    path: 'findings',
    keys: '5',
    component: () => import('@/findings/FindingsView.vue'),
  },
  {
    name: 'print',
    get title() {
      return say('print');
    },
    path: 'print',
    keys: '6',
    component: () => import('@/print/PrintView.vue'),
  },
];
