import { createRouter, createWebHistory } from 'vue-router';
import { setKey } from './data/server.ts';

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

// The server's start line carries the key behind #. It is kept and taken out of the address at once.
router.beforeEach((to) => {
  const found = /^#key=([\x21-\x7e]+)$/.exec(to.hash)?.[1];
  if (found === undefined) return true;
  setKey(found);
  return { path: to.path, query: to.query, hash: '', replace: true };
});
