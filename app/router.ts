import { createRouter, createWebHistory } from 'vue-router';

/** The views, each with its own piece of script; an address names the view and what was chosen in it. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/links' },
    { path: '/links/:link?', name: 'links', component: () => import('./links/LinksView.vue') },
    { path: '/links/:link/click/:click', name: 'journey', component: () => import('./links/LinksView.vue') },
    { path: '/programs/:network?', name: 'programs', component: () => import('./programs/ProgramsView.vue') },
    { path: '/setup', name: 'setup', component: () => import('./setup/SetupView.vue') },
    { path: '/:rest(.*)*', redirect: '/links' },
  ],
});
