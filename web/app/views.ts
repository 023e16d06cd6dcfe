import type { View } from '@/commands/feature';

/** The views of a session, in their order: the router, the top line, the palette and the keys follow from this list. */
export const VIEWS: readonly View[] = [
  {
    name: 'sheet',
    title: 'Sheet',
    path: '',
    keys: '1',
    component: () => import('@/sheet/SheetView.vue'),
    around: ['inspector', 'picks'],
    hint: 'Click names to pick strips: Shift for a range, Ctrl one by one, or drag across. Drag a cell up or down to change it, along its row to paint it.',
  },
  {
    name: 'flow',
    title: 'Flow',
    path: 'flow',
    keys: '2',
    component: () => import('@/flow/FlowView.vue'),
    around: ['inspector', 'picks'],
    hint: 'Click nodes to pick them, Ctrl for more. Draw from a right edge to a left edge to connect; click a line to change it. F folds a family.',
  },
  {
    name: 'automation',
    title: 'Automation',
    path: 'automation',
    keys: '3',
    component: () => import('@/automation/AutomationView.vue'),
  },
  {
    name: 'surface',
    title: 'Surface',
    path: 'surface',
    keys: '4',
    component: () => import('@/surface/SurfaceView.vue'),
  },
  {
    name: 'findings',
    title: 'Findings',
    path: 'findings',
    keys: '5',
    component: () => import('@/findings/FindingsView.vue'),
  },
  {
    name: 'print',
    title: 'Print',
    path: 'print',
    keys: '6',
    component: () => import('@/print/PrintView.vue'),
  },
];
