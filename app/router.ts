import { createRouter, createWebHistory } from 'vue-router';
import { pageFromBookmarklet, pageIn } from './shell/bookmarklet.ts';
import { keyIn } from './data/server.ts';
import LinksView from './links/LinksView.vue';

/**
 * The views; an address names the view and what was chosen in it. Links come with the frame, being the first screen, each
 * other view has its own piece of script.
 */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/links' },
    { path: '/links/:link?', name: 'links', component: LinksView },
    { path: '/links/:link/click/:click', name: 'journey', component: LinksView },
    { path: '/links/:link/history', name: 'history', component: LinksView },
    {
      path: '/copy',
      name: 'copy',
      component: () => import('./links/copying/SearchWindow.vue'),
      meta: { bare: true },
    },
    { path: '/paste', name: 'paste', component: () => import('./links/PasteView.vue') },
    { path: '/import', name: 'import', component: () => import('./links/ImportView.vue') },
    { path: '/trace', name: 'trace', component: () => import('./links/TraceView.vue') },
    {
      path: '/reconcile/:network?/:month?',
      name: 'reconcile',
      component: () => import('./reconcile/ReconcileView.vue'),
    },
    {
      path: '/ledger/:network?/:month?',
      name: 'ledger',
      component: () => import('./reconcile/LedgerView.vue'),
    },
    {
      path: '/payments/:network?',
      name: 'payments',
      component: () => import('./reconcile/PaymentsView.vue'),
    },
    {
      path: '/claim/:network/:month',
      name: 'claim',
      component: () => import('./reconcile/ClaimView.vue'),
    },
    { path: '/report/:network?', name: 'report', component: () => import('./reconcile/ReportView.vue') },
    {
      path: '/programs/new',
      name: 'register',
      component: () => import('./programs/register/RegisterView.vue'),
    },
    {
      path: '/programs/:network/first',
      name: 'first',
      component: () => import('./programs/register/FirstPostbackView.vue'),
    },
    { path: '/programs/:network?', name: 'programs', component: () => import('./programs/ProgramsView.vue') },
    {
      path: '/programs/:network/bench',
      name: 'bench',
      component: () => import('./programs/ProgramsView.vue'),
    },
    { path: '/place', redirect: '/place/articles' },
    {
      path: '/place/articles/:file?/:index?',
      name: 'articles',
      component: () => import('./place/ArticlesView.vue'),
    },
    { path: '/place/feed', name: 'feed', component: () => import('./place/FeedView.vue') },
    {
      path: '/place/products/:product?',
      name: 'products',
      component: () => import('./place/ProductsView.vue'),
    },
    { path: '/place/kits/:kit?', name: 'kits', component: () => import('./place/KitsView.vue') },
    { path: '/place/pages', name: 'pages', component: () => import('./place/PagesView.vue') },
    { path: '/place/pages/script', name: 'script', component: () => import('./place/ScriptView.vue') },
    { path: '/place/sources', name: 'sources', component: () => import('./place/SourcesView.vue') },
    { path: '/traffic', name: 'traffic', component: () => import('./traffic/TrafficView.vue') },
    {
      path: '/traffic/access-logs',
      name: 'access-logs',
      component: () => import('./traffic/AccessLogView.vue'),
    },
    { path: '/decide', name: 'decide', component: () => import('./decide/DecideView.vue') },
    { path: '/decide/costs', name: 'costs', component: () => import('./decide/CostsView.vue') },
    {
      path: '/decide/promotions',
      name: 'promotions',
      component: () => import('./decide/PromotionsView.vue'),
    },
    {
      path: '/decide/promotions/:promotion',
      name: 'promotion',
      component: () => import('./decide/PromotionView.vue'),
      props: true,
    },
    { path: '/decide/writers', name: 'writers', component: () => import('./decide/writers/WritersView.vue') },
    { path: '/waiting', name: 'waiting', component: () => import('./waiting/WaitingView.vue') },
    { path: '/setup', name: 'setup', component: () => import('./setup/SetupView.vue') },
    { path: '/:rest(.*)*', redirect: '/links' },
  ],
});

// A bookmarklet opens the application with the page it was pressed on behind #. Nothing is done with it by itself.
router.beforeEach((to) => {
  // The router has decoded its own hash already; the browser's is as it was written.
  const page = to.hash.startsWith('#page=') ? pageIn(location.hash) : undefined;
  if (page === undefined) return true;
  pageFromBookmarklet.value = page;
  return { path: '/links', query: to.query, hash: '', replace: true };
});

// The key that the server's start line carries behind # was kept before anything was asked; here it leaves the address.
router.beforeEach((to) =>
  keyIn(to.hash) === undefined ? true : { path: to.path, query: to.query, hash: '', replace: true },
);
