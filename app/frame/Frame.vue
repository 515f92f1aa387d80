<script setup lang="ts">
import { mdiKeyboardOutline, mdiWeatherNight, mdiWhiteBalanceSunny } from '@mdi/js';
import { computed } from 'vue';
import { useTheme } from 'vuetify';
import { useCatalogue } from '../data/catalogue.ts';
import { keyTable, useKeys } from './keys.ts';
import { useNotice } from './notice.ts';
import PasteBar from './PasteBar.vue';
import Rail from './Rail.vue';
import ServerState from './ServerState.vue';
import Tape from './Tape.vue';

const catalogue = useCatalogue();
const notice = useNotice();
const theme = useTheme();
const { overlay } = useKeys();
const dark = computed(() => theme.global.name.value === 'dark');

const turn = () => {
  const next = dark.value ? 'light' : 'dark';
  theme.change(next);
  localStorage.setItem('fernhop-look', next);
};
const takeBack = () => {
  notice.undo?.();
  notice.shown = false;
};
</script>

<template>
  <v-app>
    <div class="frame">
      <header>
        <router-link class="name" to="/links"
          ><img src="/mark.svg" alt="" width="26" height="26" />Fernhop</router-link
        >
        <paste-bar />
        <div class="right">
          <server-state />
          <span class="quiet currency" title="Your currency, set in Setup">{{
            catalogue.settings.currency
          }}</span>
          <button
            class="icon"
            type="button"
            aria-label="All keys"
            title="All keys (?)"
            @click="overlay = true"
          >
            <v-icon :icon="mdiKeyboardOutline" size="19" />
          </button>
          <button class="icon" type="button" :aria-label="dark ? 'Light look' : 'Dark look'" @click="turn">
            <v-icon :icon="dark ? mdiWhiteBalanceSunny : mdiWeatherNight" size="19" />
          </button>
        </div>
      </header>
      <div class="middle">
        <rail />
        <main><router-view /></main>
      </div>
      <tape />
    </div>
    <v-snackbar v-model="notice.shown" :timeout="8000" location="bottom" color="tape" class="notice">
      {{ notice.text }}
      <template v-if="notice.undo" #actions>
        <v-btn variant="text" @click="takeBack">Undo</v-btn>
      </template>
    </v-snackbar>
    <v-dialog v-model="overlay" max-width="460" aria-label="Keys">
      <div class="keys" role="document">
        <h2>Keys</h2>
        <table>
          <tbody>
            <tr v-for="[keys, does] in keyTable" :key="keys">
              <td class="mono">{{ keys }}</td>
              <td>{{ does }}</td>
            </tr>
          </tbody>
        </table>
        <v-btn color="primary" autofocus @click="overlay = false">Close</v-btn>
      </div>
    </v-dialog>
  </v-app>
</template>

<style scoped>
.frame {
  height: 100dvh;
  display: flex;
  flex-direction: column;
  background: var(--paper);
  color: var(--ink);
}
header {
  height: 60px;
  flex: none;
  display: flex;
  align-items: center;
  gap: 18px;
  padding: 0 18px;
  background: var(--surface);
  border-bottom: 1px solid var(--line);
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
  all: unset;
  cursor: pointer;
  display: inline-flex;
  color: var(--ink-two);
}
.icon:focus-visible {
  outline: 2px solid var(--fern);
  outline-offset: 3px;
}
.middle {
  flex: 1;
  min-height: 0;
  display: flex;
}
main {
  flex: 1;
  min-width: 0;
  display: flex;
}
.keys {
  padding: 22px;
  background: var(--surface);
  color: var(--ink);
  border-radius: var(--leaf-card);
}
.keys table {
  margin: 12px 0 18px;
}
.keys td {
  padding: 4px 18px 4px 0;
}
@media (max-width: 1100px) {
  .name {
    width: auto;
  }
}
@media (max-width: 760px) {
  header {
    flex-wrap: wrap;
    height: auto;
    padding: 8px 12px;
    gap: 8px 12px;
  }
  .bar {
    order: 3;
    flex-basis: 100%;
  }
  .currency {
    display: none;
  }
  .middle {
    flex-direction: column;
  }
  main {
    order: 1;
    min-height: 0;
  }
}
</style>
