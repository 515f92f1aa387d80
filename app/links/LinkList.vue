<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, onMounted, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Link } from '#core/catalogue';
import { figureDays } from '../data/journal.ts';
import LeafMark from '../theme/LeafMark.vue';
import type { LinkRow } from './linkRows.ts';
import { useLinkRows } from './linkRows.ts';
import { useLinkActions } from './linkActions.ts';
import Sparkline from './Sparkline.vue';

const props = defineProps<{ links: readonly Link[]; chosen: string | undefined; alone: boolean }>();
/** IDs of the links that are picked for a change of many; undefined while none is under way. */
const picked = defineModel<ReadonlySet<string> | undefined>('picked');
const emit = defineEmits<{ enter: [] }>();
const router = useRouter();
const route = useRoute();
const rowOf = useLinkRows();
const { copy, test } = useLinkActions();
const scroller = useTemplateRef('scroller');
const rowHeight = 49;

const rows = useVirtualizer(
  computed(() => ({
    count: props.links.length,
    getScrollElement: () => scroller.value,
    estimateSize: () => rowHeight,
    overscan: 3,
    scrollMargin: 28,
  })),
);
const seen = computed(() =>
  rows.value.getVirtualItems().flatMap(({ index }) => {
    const link = props.links[index];
    return link ? [{ index, row: rowOf(link) }] : [];
  }),
);
const above = computed(() => (seen.value[0]?.index ?? 0) * rowHeight);
const below = computed(
  () => (props.links.length - 1 - (seen.value.at(-1)?.index ?? props.links.length - 1)) * rowHeight,
);
const at = computed(() => props.links.findIndex((link) => link.id === props.chosen));

const states = {
  live: { tone: 'fern', outlined: false, words: 'Live' },
  here: { tone: 'copper', outlined: true, words: 'Saved here, not live yet' },
  refused: { tone: 'copper', outlined: false, words: 'Refused by the server' },
  conflict: { tone: 'copper', outlined: false, words: 'Changed by somebody else too' },
} as const;

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
const pick = (id: string) => {
  if (!picked.value) return;
  const next = new Set(picked.value);
  if (!next.delete(id)) next.add(id);
  picked.value = next;
};
const onKey = (event: KeyboardEvent, row: LinkRow) => {
  const control = event.ctrlKey || event.metaKey;
  if (event.key === 'ArrowDown') void move(1);
  else if (event.key === 'ArrowUp') void move(-1);
  else if (event.key === ' ' && picked.value) pick(row.link.id);
  else if (control && event.key === 'Enter') void test(row.link);
  else if (event.key === 'Enter') void open(row.link.id).then(() => emit('enter'));
  else if (control && event.key.toLowerCase() === 'c' && getSelection()?.isCollapsed) void copy(row.link);
  else return;
  event.preventDefault();
};

watch(at, (index) => void reveal(index), { flush: 'post' });
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
    <table class="list" :aria-rowcount="links.length + 1">
      <thead>
        <tr>
          <th scope="col">Link</th>
          <th scope="col" class="goes">Goes to</th>
          <th scope="col" class="hop number">Hop</th>
          <th scope="col" class="spark number">14 days</th>
          <th
            scope="col"
            class="number"
            :title="`People counted in ${figureDays} days, the same one once in half an hour`"
          >
            Visitors
          </th>
          <th scope="col" class="number conv" title="Conversions, without reversed ones">Conv.</th>
          <th scope="col" class="number" title="Earnings per counted click">EPC</th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true" class="space">
          <td :height="above" />
        </tr>
        <tr
          v-for="{ row, index } in seen"
          :key="row.link.id"
          :data-link="row.link.id"
          :class="{ chosen: row.link.id === chosen }"
          :aria-current="row.link.id === chosen ? 'true' : undefined"
          :aria-rowindex="index + 2"
          :tabindex="row.link.id === chosen || (at < 0 && index === 0) ? 0 : -1"
          @click="picked ? pick(row.link.id) : open(row.link.id)"
          @keydown="onKey($event, row)"
        >
          <td class="name">
            <v-checkbox-btn
              v-if="picked"
              tabindex="-1"
              density="compact"
              :model-value="picked.has(row.link.id)"
              :aria-label="`Pick ${row.link.slug}`"
              @click.stop
              @update:model-value="pick(row.link.id)"
            />
            <leaf-mark
              :tone="states[row.where].tone"
              :outlined="states[row.where].outlined"
              :title="states[row.where].words"
            />
            <div>
              <div class="slug mono">
                {{ row.link.slug }}<span v-if="row.link.starred" class="star" title="Starred"> ★</span>
              </div>
              <div class="quiet small">
                <span v-if="row.where !== 'live'" class="state">{{ states[row.where].words }} · </span
                ><span v-if="row.opening !== ''" class="state">{{ row.opening }} · </span>{{ row.link.title }}
              </div>
            </div>
          </td>
          <td class="goes">
            <div class="cut">{{ row.goesTo }}</div>
            <div class="quiet small">{{ row.network }}</div>
          </td>
          <td class="hop number">
            <span class="tile">{{ row.hop }}</span>
            <span v-if="row.mark" class="tile outlined">{{ row.mark }}</span>
          </td>
          <td class="spark number"><sparkline v-if="row.days.length > 0" :days="row.days" /></td>
          <td class="number">{{ row.visitors }}</td>
          <td class="number" :title="row.commission">{{ row.conversions }}</td>
          <td class="number epc">{{ row.epc }}</td>
        </tr>
        <tr v-if="below > 0" aria-hidden="true" class="space">
          <td :height="below" />
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  overflow: auto;
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
.star {
  color: var(--copper);
}
.list {
  width: 100%;
  table-layout: fixed;
}
thead th {
  position: sticky;
  top: 0;
  z-index: 1;
  height: 27px;
  background: var(--paper);
  border-bottom: 1px solid var(--line);
  padding: 0 6px;
  width: 68px;
}
th:first-child {
  width: auto;
  padding-left: 20px;
}
th.goes {
  width: 128px;
}
th.hop {
  width: 108px;
}
td.hop {
  white-space: nowrap;
}
tbody tr {
  height: 49px;
  cursor: pointer;
  border-bottom: 1px solid var(--line);
}
tbody tr.space {
  border: 0;
}
tbody tr:focus-visible {
  outline-offset: -2px;
}
td {
  padding: 0 6px;
}
td:last-child,
th:last-child {
  padding-right: 16px;
}
.name {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 48px;
  padding-left: 20px;
}
.name > div {
  min-width: 0;
}
.slug {
  font-weight: 600;
}
.small {
  font-size: 12px;
}
.slug,
.small,
.cut {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.state {
  color: var(--copper);
  font-weight: 600;
}
.epc {
  font-weight: 600;
}
tr:hover td {
  background: var(--sunk);
}
tr.chosen td {
  background: var(--fern-soft);
}
tr.chosen td:first-child {
  box-shadow: inset 4px 0 0 var(--fern);
}
/* With the whole width to itself, the room goes to where the links lead. */
@media (min-width: 1000px) {
  .alone th.goes {
    width: 32%;
  }
  .alone th.spark {
    width: 110px;
  }
  .alone thead th.number:not(.hop, .spark) {
    width: 92px;
  }
}
@media (max-width: 1180px) {
  .hop {
    display: none;
  }
}
@media (max-width: 900px) {
  .spark {
    display: none;
  }
}
@media (max-width: 600px) {
  .goes {
    display: none;
  }
  thead th {
    width: 62px;
  }
}
</style>
