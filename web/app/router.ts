import { createRouter, createWebHistory } from 'vue-router';
import SessionsView from '@/sessions/SessionsView.vue';

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'sessions', component: SessionsView },
    {
      path: '/session/:id',
      component: () => import('./SessionShell.vue'),
      props: true,
      children: [
        { path: '', name: 'sheet', component: () => import('@/sheet/SheetView.vue') },
        {
          path: 'automation',
          name: 'automation',
          component: () => import('@/automation/AutomationView.vue'),
        },
        { path: 'surface', name: 'surface', component: () => import('@/surface/SurfaceView.vue') },
        { path: 'flow', name: 'flow', component: () => import('@/flow/FlowView.vue') },
        { path: 'findings', name: 'findings', component: () => import('@/findings/FindingsView.vue') },
        { path: 'print', name: 'print', component: () => import('@/print/PrintView.vue') },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
