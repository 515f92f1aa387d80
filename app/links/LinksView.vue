<script setup lang="ts">
import { computed, ref, useTemplateRef } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { searchLinks } from '#core/anatomy';
import { useCatalogue } from '../data/catalogue.ts';
import { figureDays } from '../data/journal.ts';
import EmptyLinks from './EmptyLinks.vue';
import JourneyPane from './JourneyPane.vue';
import LinkList from './LinkList.vue';
import { useLinkRows } from './linkRows.ts';
import RoutePane from './RoutePane.vue';

const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const rows = useLinkRows();
const words = ref('');
const pane = useTemplateRef('pane');

const chosen = computed(() =>
  typeof route.params['link'] === 'string' && route.params['link'] !== '' ? route.params['link'] : undefined,
);
const link = computed(() => catalogue.link(chosen.value));
const click = computed(() => (typeof route.params['click'] === 'string' ? route.params['click'] : undefined));
const shown = computed(() => {
  if (words.value.trim() === '') return rows.value;
  const found = new Set(searchLinks(words.value, catalogue.links).map((l) => l.id));
  return rows.value.filter((row) => found.has(row.link.id));
});
const toLink = () => router.push({ name: 'links', params: { link: chosen.value ?? '' } });
const toList = async () => {
  const id = chosen.value;
  await router.push({ name: 'links' });
  document.querySelector<HTMLElement>(`tr[data-link="${id ?? ''}"]`)?.focus();
};
</script>

<template>
  <div class="view" :class="{ 'has-pane': link }">
    <section class="left" aria-label="Links">
      <v-skeleton-loader v-if="!catalogue.loaded" type="heading, table-row@6" color="background" />
      <empty-links v-else-if="rows.length === 0" />
      <template v-else>
        <header>
          <h1>Links</h1>
          <span class="quiet">{{ rows.length }}, last {{ figureDays }} days</span>
          <input
            v-model="words"
            type="search"
            placeholder="Filter"
            aria-label="Filter the list"
            @keydown.esc.prevent="words = ''"
          />
        </header>
        <div class="scroll">
          <link-list :rows="shown" :chosen="chosen" @enter="pane?.focus()" />
          <p v-if="shown.length === 0" class="quiet none">
            No link holds these words.
            <button class="text-link" type="button" @click="words = ''">Show all</button>
          </p>
        </div>
      </template>
    </section>
    <aside v-if="link" class="right" aria-label="Route">
      <journey-pane v-if="click" :click="click" @back="toLink" />
      <route-pane v-else ref="pane" :link="link" @back="toList" />
    </aside>
    <aside v-else-if="chosen && catalogue.loaded" class="right gone">
      <p class="quiet">There is no such link.</p>
    </aside>
  </div>
</template>

<style scoped>
.view {
  flex: 1;
  display: flex;
  min-width: 0;
}
.left {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
.left header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  padding: 15px 20px 9px;
}
input {
  margin-left: auto;
  width: 150px;
  height: 28px;
  padding: 0 10px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-button);
  align-self: center;
}
input::placeholder {
  color: var(--ink-two);
  opacity: 1;
}
.scroll {
  flex: 1;
  overflow: auto;
}
.none {
  padding: 10px 20px;
}
.right {
  width: 408px;
  flex: none;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--surface);
  border-left: 1px solid var(--line);
}
.gone {
  padding: 20px;
}
@media (max-width: 1100px) {
  .right {
    width: 360px;
  }
}
@media (max-width: 760px) {
  .has-pane .left {
    display: none;
  }
  .right {
    width: 100%;
    border: 0;
  }
}
</style>
