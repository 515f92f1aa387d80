<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, onMounted, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Link } from '#core/catalogue';
import SortHeadings from '../theme/SortHeadings.vue';
import type { LinkColumn } from './linkColumns.ts';
import { slugColumn } from './linkColumns.ts';
import { useLinkFacts } from './linkRows.ts';
import { useLinkActions } from './linkActions.ts';
import LinkRow from './LinkRow.vue';

const props = defineProps<{
  links: readonly Link[];
  chosen: string | undefined;
  alone: boolean;
  columns: readonly LinkColumn[];
  /** Which way it is sorted by a column, where it is. */
  wayOf: (column: string) => 'up' | 'down' | undefined;
  /** Nobody chose columns: on a narrow screen fewer are shown. */
  usual: boolean;
}>();
/** IDs of the links that are picked for a change of many; undefined while none is under way. */
const picked = defineModel<ReadonlySet<string> | undefined>('picked');
const emit = defineEmits<{ enter: []; sort: [column: string] }>();
const router = useRouter();
const route = useRoute();
const facts = useLinkFacts();
const { copy, test } = useLinkActions();
const scroller = useTemplateRef('scroller');
const rowHeight = 49;
const slugWidth = 176;

const rows = useVirtualizer(
  computed(() => ({
    count: props.links.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => rowHeight,
    overscan: 3,
    scrollMargin: 28,
    // The headings stand over the first of the rows.
    scrollPaddingStart: 28,
  })),
);
/** The columns with their classes, which are the same in every row. */
const drawn = computed(() =>
  props.columns.map((column) => ({ column, looks: `${column.name}${column.number ? ' number' : ''}` })),
);
/** As many rows as were ever seen at once. */
let places = 1;
/**
 * The links that are seen. A row that leaves the screen becomes one that comes, which is half the work of a new one; but the
 * chosen row, and those one picks from, stay what they are, since the keyboard may be there.
 */
const seen = computed(() => {
  const items = rows.value.getVirtualItems();
  places = Math.max(places, items.length);
  return items.flatMap(({ index }) => {
    const link = props.links[index];
    if (!link) return [];
    const stays = picked.value !== undefined || link.id === props.chosen;
    return [{ index, link, key: stays ? link.id : index % places }];
  });
});
const above = computed(() => (seen.value[0]?.index ?? 0) * rowHeight);
const below = computed(
  () => (props.links.length - 1 - (seen.value.at(-1)?.index ?? props.links.length - 1)) * rowHeight,
);
const width = computed(() => props.columns.reduce((sum, column) => sum + column.width, slugWidth));
const at = computed(() => props.links.findIndex((link) => link.id === props.chosen));

const open = (id: string) => router.push({ name: 'links', params: { link: id }, query: route.query });
const reveal = async (index: number) => {
  if (index < 0) return;
  rows.value.scrollToIndex(index, { align: 'auto' });
  await nextTick();
};
const focusRow = async (id: string) => {
  // A row that was far away is there one frame after it was scrolled to.
  for (let frame = 0; frame < 10; frame++) {
    const row = scroller.value?.querySelector<HTMLElement>(`tr[data-link="${id}"]`);
    if (row) return row.focus();
    await new Promise(requestAnimationFrame);
  }
};
const move = async (by: number) => {
  const index = Math.min(props.links.length - 1, Math.max(0, at.value + by));
  const next = props.links[index];
  if (!next) return;
  await open(next.id);
  await reveal(index);
  await focusRow(next.id);
};
/** The row that was pressed is the chosen one then, with the keyboard on it. */
const choose = async (id: string) => {
  await open(id);
  await focusRow(id);
};
/** What is sorted anew is read from its top. */
let sortedAnew = false;
const sortBy = (column: string) => {
  sortedAnew = true;
  emit('sort', column);
  scroller.value?.scrollTo({ top: 0 });
  void nextTick(() => (sortedAnew = false));
};
const pick = (id: string) => {
  if (!picked.value) return;
  const next = new Set(picked.value);
  if (!next.delete(id)) next.add(id);
  picked.value = next;
};
const onKey = (event: KeyboardEvent, link: Link) => {
  const control = event.ctrlKey || event.metaKey;
  if (event.key === 'ArrowDown') void move(1);
  else if (event.key === 'ArrowUp') void move(-1);
  else if (event.key === ' ' && picked.value) pick(link.id);
  else if (control && event.key === 'Enter') void test(link);
  else if (event.key === 'Enter') void open(link.id).then(() => emit('enter'));
  else if (control && event.key.toLowerCase() === 'c' && getSelection()?.isCollapsed) void copy(link);
  else return;
  event.preventDefault();
};

watch(at, (index) => sortedAnew || void reveal(index), { flush: 'post' });
// The list knows what it scrolls only once it is there.
onMounted(async () => {
  await nextTick();
  await reveal(at.value);
});
defineExpose({
  focus: async (id: string) => {
    await reveal(props.links.findIndex((link) => link.id === id));
    await focusRow(id);
  },
});
</script>

<template>
  <div ref="scroller" class="scroll" :class="{ alone }">
    <v-table>
      <template #wrapper>
        <!-- eslint-disable-next-line vue/no-restricted-html-elements -- it has only the rows that are seen, and says how many there are -->
        <table
          class="list"
          :class="{ usual }"
          :aria-rowcount="links.length + 1"
          :style="{ '--columns': `${width}px` }"
        >
          <sort-headings :columns="[slugColumn, ...columns]" :way-of="wayOf" @sort="sortBy" />
          <tbody>
            <tr v-if="above > 0" aria-hidden="true" class="space">
              <td :height="above" />
            </tr>
            <link-row
              v-for="{ link, index, key } in seen"
              :key="key"
              :link="link"
              :columns="drawn"
              :facts="facts"
              :chosen="link.id === chosen"
              :picked="picked?.has(link.id)"
              :rank="index"
              :tabbable="link.id === chosen || (at < 0 && index === 0)"
              @choose="picked ? pick(link.id) : choose(link.id)"
              @pick="pick(link.id)"
              @key="onKey($event, link)"
            />
            <tr v-if="below > 0" aria-hidden="true" class="space">
              <td :height="below" />
            </tr>
          </tbody>
        </table>
      </template>
    </v-table>
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  overflow: auto;
  /* Rows that change places are not to take the list along. */
  overflow-anchor: none;
}
.space,
tbody tr.space {
  height: auto;
  cursor: default;
}
.space td,
tr.space:hover td {
  padding: 0;
  border: 0;
  background: none;
}
.v-table,
.list {
  overflow: visible;
  background: none;
  color: inherit;
}
.list {
  width: 100%;
  min-width: var(--columns);
  font-size: 14px;
  table-layout: fixed;
}
.list :deep(thead) {
  position: sticky;
  top: 0;
  z-index: 1;
}
.list :deep(thead th) {
  height: 27px;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  padding: 0 6px;
}
.list :deep(th:first-child) {
  padding-left: 20px;
}
.list :deep(th:last-child) {
  padding-right: 16px;
}
/* With the whole width to itself, the room goes to where the links lead. */
@media (min-width: 1000px) {
  .alone .usual :deep(th.goes) {
    width: 32% !important;
  }
}
@media (max-width: 1180px) {
  .usual :deep(.hop) {
    display: none;
  }
}
@media (max-width: 900px) {
  .usual :deep(.days) {
    display: none;
  }
}
@media (max-width: 600px) {
  .usual :deep(.goes) {
    display: none;
  }
  .usual {
    min-width: 0;
  }
  .usual :deep(th:not(:first-child)) {
    width: 68px !important;
  }
  .usual :deep(th.epc) {
    width: 98px !important;
  }
}
</style>
