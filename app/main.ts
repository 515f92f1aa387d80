import './theme/theme.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import { useCatalogue } from './data/catalogue.ts';
import { useJournal } from './data/journal.ts';
import { useSeals } from './data/seals.ts';
import { keyIn, takeGivenKey } from './data/server.ts';
import { keepFiles } from './shell/renewal.ts';
import Shell from './shell/Shell.vue';
import { vuetify } from './theme/vuetify.ts';
import { router } from './router.ts';

const given = keyIn(location.hash);
if (given !== undefined) void takeGivenKey(given);
const pinia = createPinia();
const app = createApp(Shell).use(pinia).use(vuetify);
app.use(router);
void router.isReady().then(() => app.mount('#app'));
// What is not part of the first screen is fetched once that stands: every section can be edited when the server is away.
const rest = import.meta.glob<object>([
  './data/derivedOwners.ts',
  './links/{Hop,Marks,Entry,Destination}Fields.vue',
  './links/{ListFilter,AsVisitor,HopMenu,SplitEditor,EmptyLinks,BulkPane,HistoryPane,JourneyPane,LinkMore}.vue',
  './links/copying/{CopyMenu,SearchDialog,SearchWindow}.vue',
  './theme/ColumnMenu.vue',
  './links/{Paste,Import,Trace}View.vue',
  './{place,programs,reconcile,setup,waiting}/*View.vue',
  './reconcile/{openFile,claim/claimFile}.ts',
  './shell/{KeysOverlay,NoticeLine}.vue',
  './shell/pasteTools.ts',
]);
const fetchRest = async (): Promise<void> => {
  await Promise.allSettled([
    ...Object.values(rest).map((load) => load()),
    import('vuetify/components/VTooltip'),
  ]);
  document.documentElement.setAttribute('data-whole', '');
  keepFiles();
};

void useCatalogue(pinia)
  .start()
  .then(() => useJournal(pinia).start())
  .then(() => useSeals(pinia).start())
  .then(
    () => setTimeout(() => void fetchRest(), 1000),
    // Without its database the shell says what to do; anything else is a bug.
    (error: unknown) => {
      if (useCatalogue(pinia).storageProblem === '') throw error;
    },
  );
