import './look/look.css';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import { useCatalogue } from './data/catalogue.ts';
import { useJournal } from './data/journal.ts';
import Frame from './frame/Frame.vue';
import { vuetify } from './look/vuetify.ts';
import { router } from './router.ts';

const app = createApp(Frame).use(createPinia()).use(vuetify).use(router);
app.mount('#app');
void useCatalogue()
  .start()
  .then(() => useJournal().start());
