<script setup lang="ts">
import { computed, defineAsyncComponent, nextTick, ref, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Link } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { figureDays, useJournal } from '../data/journal.ts';
import { useTableLook } from '../data/tableLook.ts';
import { firstDrawn, listIsThere } from '../shell/firstDrawn.ts';
import { usePaste } from '../shell/paste.ts';
import { count } from '../theme/formats.ts';
import { slugColumn, useLinkColumns, usualColumns } from './linkColumns.ts';
import LinkList from './LinkList.vue';
import { useListFilter } from './listFilter.ts';
import RoutePane from './RoutePane.vue';

const BulkPane = defineAsyncComponent(() => import('./BulkPane.vue'));
const ColumnMenu = defineAsyncComponent(() => import('../theme/ColumnMenu.vue'));
const ListFilter = defineAsyncComponent(() => import('./ListFilter.vue'));
const EmptyLinks = defineAsyncComponent(() => import('./EmptyLinks.vue'));
const HistoryPane = defineAsyncComponent(() => import('./HistoryPane.vue'));
const JourneyPane = defineAsyncComponent(() => import('./JourneyPane.vue'));
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
const { active, shown, set } = useListFilter();
const columns = useLinkColumns();
const look = useTableLook<Link>('links', () => [slugColumn, ...columns], usualColumns);
const listed = computed(() => look.sorted(shown.value));
const picked = ref<ReadonlySet<string> | undefined>();
const pane = useTemplateRef('pane');
const list = useTemplateRef('list');

const chosen = computed(() =>
  typeof route.params['link'] === 'string' && route.params['link'] !== '' ? route.params['link'] : undefined,
);
/** A section of the link is open: what is typed there stays, also when somebody removes the link meanwhile. */
const isEditing = ref(false);
const link = computed<Link | undefined>(
  (before) =>
    catalogue.link(chosen.value) ?? (isEditing.value && before?.id === chosen.value ? before : undefined),
);
const click = computed(() => (typeof route.params['click'] === 'string' ? route.params['click'] : undefined));
const history = computed(() => route.name === 'history');
const paned = computed(() => picked.value !== undefined || link.value !== undefined);
const toLink = () => router.push({ name: 'links', params: { link: chosen.value ?? '' }, query: route.query });
const toList = async () => {
  const id = chosen.value;
  await router.push({ name: 'links', query: route.query });
  await nextTick();
  if (id !== undefined) await list.value?.focus(id);
};
/** Who just made a link goes on with it: the focus is on its route. */
const paste = usePaste();
watch(
  [() => paste.newest, chosen, pane],
  async ([made, id, shownPane]) => {
    if (made === '' || made !== id || !shownPane) return;
    paste.newest = '';
    await nextTick();
    shownPane.focus();
  },
  { flush: 'post' },
);
watch(
  () => catalogue.links.length > 0,
  async (there) => {
    await nextTick();
    if (there) listIsThere();
  },
  { immediate: true, flush: 'post' },
);
/** There are no links, and none are on their way from the server either. */
const isEmpty = ref(false);
const arrivalMs = 400;
watch(
  () => catalogue.loaded && catalogue.links.length === 0 && catalogue.server !== 'asking',
  (none, _, onCleanup) => {
    isEmpty.value = false;
    if (!none) return;
    const timer = setTimeout(() => (isEmpty.value = true), arrivalMs);
    onCleanup(() => clearTimeout(timer));
  },
  { immediate: true },
);
const pickMany = () => (picked.value = picked.value ? undefined : new Set());
const pickShown = () => (picked.value = new Set(shown.value.map((l) => l.id)));
const pickedLinks = computed(() => shown.value.filter((l) => picked.value?.has(l.id)));
const clear = () => set({ words: '', domain: '', program: '', group: '', tag: '', state: '' });
</script>

<template>
  <div class="view" :class="{ 'has-pane': paned }">
    <section class="left" aria-label="Links">
      <v-skeleton-loader
        v-if="!catalogue.loaded || (catalogue.links.length === 0 && !isEmpty)"
        class="loading"
        type="image"
        aria-label="Loading"
      />
      <empty-links v-else-if="catalogue.links.length === 0" />
      <template v-else>
        <header>
          <h1>Links</h1>
          <span class="quiet"
            >{{
              active
                ? `${count(shown.length)} of ${count(catalogue.links.length)}`
                : count(catalogue.links.length)
            }}<span class="days"
              >, last {{ figureDays }} days<template v-if="journal.arriving">, still arriving</template></span
            ></span
          >
          <span class="actions">
            <v-btn class="quiet-button" :aria-pressed="picked !== undefined" @click="pickMany">{{
              picked ? 'Done' : 'Change many'
            }}</v-btn>
            <v-btn class="quiet-button" @click="router.push({ name: 'import' })">Import, export</v-btn>
          </span>
        </header>
        <div class="filters">
          <list-filter v-if="firstDrawn">
            <column-menu :columns="columns" :chosen="look.chosen.value" @toggle="look.toggle" />
          </list-filter>
        </div>
        <link-list
          v-if="shown.length > 0"
          ref="list"
          v-model:picked="picked"
          :links="listed"
          :columns="columns.filter((column) => look.chosen.value.has(column.name))"
          :way-of="look.wayOf"
          :usual="look.isUsual.value"
          :chosen="chosen"
          :alone="!paned"
          @enter="pane?.focus()"
          @sort="look.sortBy"
        />
        <p v-else class="quiet none">
          No link fits.
          <text-link @click="clear">Show all</text-link>
        </p>
      </template>
    </section>
    <aside v-if="picked" class="right" aria-label="Change many">
      <bulk-pane
        :links="pickedLinks"
        :listed="shown.length"
        @all="pickShown"
        @none="picked = new Set()"
        @done="picked = undefined"
      />
    </aside>
    <aside v-else-if="link" class="right" aria-label="Route">
      <journey-pane v-if="click" :click="click" @back="toLink" />
      <history-pane v-else-if="history" :link="link" @back="toLink" />
      <route-pane v-else ref="pane" :link="link" @editing="isEditing = $event" @back="toList" />
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
  padding: 15px 20px 4px;
}
.actions {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.filters {
  min-height: 38px;
}
.none {
  padding: 10px 20px;
}
/* Rows in their places, before there is anything in them. */
.loading {
  flex: 1;
  margin: 88px 20px 0;
  align-content: stretch;
  background: none;
}
/* One piece with the rows drawn on it: a piece for each line of each row takes longer than the rows themselves. */
.loading :deep(.v-skeleton-loader__bone) {
  height: 100%;
  background: repeating-linear-gradient(var(--sunk) 0 22px, transparent 22px 49px);
  opacity: 0.6;
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
  .days {
    display: none;
  }
  .has-pane .left {
    display: none;
  }
  .right {
    width: 100%;
    border: 0;
  }
}
</style>
