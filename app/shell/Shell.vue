<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { mdiKeyboardOutline, mdiWeatherNight, mdiWhiteBalanceSunny } from '@mdi/js';
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import { useDisplay, useTheme } from 'vuetify';
import { useCatalogue } from '../data/catalogue.ts';
import { offeredKey } from '../data/server.ts';
import { useKeys } from './keys.ts';
import { useNotice } from './notice.ts';
import { pageFromBookmarklet } from './bookmarklet.ts';
import { usePaste } from './paste.ts';
import { newerReady } from './renewal.ts';
import PasteBar from './PasteBar.vue';
import Rail from './Rail.vue';
import ServerState from './ServerState.vue';
import Tape from './Tape.vue';
import CountedByServer from './CountedByServer.vue';
import NotKept from './NotKept.vue';

// Loaded when they are first needed: the first screen is there sooner without them.
const KeysOverlay = defineAsyncComponent(() => import('./KeysOverlay.vue'));
const SearchDialog = defineAsyncComponent(() => import('../links/copying/SearchDialog.vue'));
const NoticeLine = defineAsyncComponent(() => import('./NoticeLine.vue'));
const NewerVersion = defineAsyncComponent(() => import('./NewerVersion.vue'));
const OtherKey = defineAsyncComponent(() => import('./OtherKey.vue'));
const catalogue = useCatalogue();
const notice = useNotice();
const theme = useTheme();
const { overlay, searching } = useKeys();
const route = useRoute();
/** A small window of its own, without the frame. */
const bare = computed(() => route.meta.bare === true);
const { width } = useDisplay();
/** Too narrow for the paste bar beside the name. */
const narrow = computed(() => width.value <= 760);
const paste = usePaste();
watch(
  [pageFromBookmarklet, () => catalogue.loaded],
  ([page, loaded]) => {
    if (page === undefined || !loaded) return;
    pageFromBookmarklet.value = undefined;
    paste.offer(page);
  },
  { immediate: true },
);
watch(
  () => catalogue.refusedUndo,
  (words) => words !== '' && notice.say(words),
);
const keysAsked = ref(false);
const searchAsked = ref(false);
watch(searching, () => (searchAsked.value = true));
const noticed = ref(false);
watch(overlay, () => (keysAsked.value = true));
watch(
  () => notice.queue.length,
  () => (noticed.value = true),
);
const dark = computed(() => theme.global.name.value === 'dark');

const turn = () => {
  const next = dark.value ? 'light' : 'dark';
  theme.change(next);
  localStorage.setItem('fernhop-theme', next);
};
</script>

<template>
  <v-app>
    <v-app-bar
      v-if="!bare"
      :height="60"
      :extended="narrow"
      :extension-height="50"
      color="surface"
      flat
      class="top"
    >
      <router-link class="name" to="/links"
        ><img src="/mark.svg" alt="" width="26" height="26" />Fernhop</router-link
      >
      <paste-bar v-if="!narrow" />
      <div class="right">
        <server-state />
        <span v-if="!narrow" class="quiet currency"
          >{{ catalogue.settings.currency }}<hint>Your currency, set in Setup</hint></span
        >
        <text-link class="icon" aria-label="All keys" @click="overlay = true">
          <v-icon :icon="mdiKeyboardOutline" size="19" />
          <hint>All keys <v-hotkey keys="?" inline /></hint>
        </text-link>
        <text-link class="icon" :aria-label="dark ? 'Light theme' : 'Dark theme'" @click="turn">
          <v-icon :icon="dark ? mdiWhiteBalanceSunny : mdiWeatherNight" size="19" />
        </text-link>
      </div>
      <template v-if="narrow" #extension><paste-bar class="below" /></template>
    </v-app-bar>
    <v-footer v-if="!bare" app :height="30" color="tape" class="foot" tag="div"><tape /></v-footer>
    <rail v-if="!bare" :folded="width <= 1100" :bar="width <= 600" />
    <v-main tag="div" class="middle">
      <not-kept />
      <newer-version v-if="newerReady" />
      <counted-by-server />
      <main>
        <p v-if="catalogue.storageProblem" class="storage-problem" role="alert">
          {{ catalogue.storageProblem }}
        </p>
        <router-view v-else />
      </main>
      <other-key v-if="offeredKey !== ''" />
    </v-main>
    <notice-line v-if="noticed" />
    <keys-overlay v-if="keysAsked" v-model="overlay" />
    <search-dialog v-if="searchAsked" v-model="searching" />
  </v-app>
</template>

<style scoped>
.top {
  border-bottom: 1px solid var(--line) !important;
}
.top :deep(.v-toolbar__content) {
  gap: 18px;
  padding: 0 18px;
}
.top :deep(.v-toolbar__extension) {
  padding: 0 12px 8px;
}
.foot {
  padding: 0;
}
.name {
  width: 148px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 8px;
  font-family: var(--serif);
  font-size: 23px;
  font-weight: 600;
  color: var(--ink);
  text-decoration: none;
}
.right {
  margin-left: auto;
  display: flex;
  align-items: center;
  gap: 16px;
}
.icon {
  display: inline-flex;
  color: var(--ink-two);
}
.middle {
  display: flex;
  flex-direction: column;
  height: 100dvh;
  background: var(--paper);
  color: var(--ink);
}
main {
  flex: 1;
  min-width: 0;
  min-height: 0;
  display: flex;
}
.storage-problem {
  max-width: 60ch;
  margin: 24px;
  color: var(--copper);
}
@media (max-width: 1100px) {
  .name {
    width: auto;
  }
}
</style>
