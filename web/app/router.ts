import { createRouter, createWebHistory } from 'vue-router';
import { setViews } from '@/commands/feature';
import { VIEWS } from './views';

setViews(VIEWS);

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'sessions', component: () => import('@/sessions/SessionsView.vue') },
    { path: '/machines', name: 'machines', component: () => import('@/machines/MachinesView.vue') },
    { path: '/pair', name: 'pair', component: () => import('@/machines/PairView.vue') },
    // Before the views: it is a window of its own, with nothing around it.
    {
      path: '/session/:id/hands',
      name: 'hands',
      component: () => import('@/surface/hands/HandsView.vue'),
      props: true,
    },
    {
      path: '/session/:id',
      component: () => import('./SessionShell.vue'),
      props: true,
      children: VIEWS.map(({ name, path, component }) => ({ name, path, component })),
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
