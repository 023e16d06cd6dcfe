import { createRouter, createWebHistory } from 'vue-router';
import SessionsView from './views/SessionsView.vue';

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'sessions', component: SessionsView },
    {
      path: '/session/:id',
      component: () => import('./views/SessionShell.vue'),
      props: true,
      children: [
        { path: '', name: 'sheet', component: () => import('./views/SheetView.vue') },
        {
          path: 'automation',
          name: 'automation',
          component: () => import('./views/AutomationView.vue'),
        },
        { path: 'surface', name: 'surface', component: () => import('./views/SurfaceView.vue') },
        { path: 'flow', name: 'flow', component: () => import('./views/FlowView.vue') },
        { path: 'findings', name: 'findings', component: () => import('./views/FindingsView.vue') },
        { path: 'print', name: 'print', component: () => import('./views/PrintView.vue') },
      ],
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
