<script setup lang="ts">
import { nextTick, useTemplateRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { figureDays } from '../data/journal.ts';
import LeafMark from '../look/LeafMark.vue';
import type { LinkRow } from './linkRows.ts';
import { useLinkActions } from './linkActions.ts';
import Sparkline from './Sparkline.vue';

const props = defineProps<{ rows: readonly LinkRow[]; chosen: string | undefined }>();
const emit = defineEmits<{ enter: [] }>();
const router = useRouter();
const { copy, test } = useLinkActions();
const body = useTemplateRef('body');

const states = {
  live: { tone: 'fern', outlined: false, words: 'Live' },
  here: { tone: 'copper', outlined: true, words: 'Saved here, not live yet' },
  refused: { tone: 'copper', outlined: false, words: 'Refused by the server' },
  conflict: { tone: 'copper', outlined: false, words: 'Changed by somebody else too' },
} as const;

const open = (id: string) => router.push({ name: 'links', params: { link: id } });
const focusRow = async (id: string | undefined) => {
  await nextTick();
  body.value?.querySelector<HTMLElement>(`tr[data-link="${id ?? ''}"]`)?.focus();
};
const move = async (by: number) => {
  const at = props.rows.findIndex((row) => row.link.id === props.chosen);
  const next = props.rows[Math.min(props.rows.length - 1, Math.max(0, at + by))];
  if (!next) return;
  await open(next.link.id);
  await focusRow(next.link.id);
};
const onKey = (event: KeyboardEvent, row: LinkRow) => {
  const control = event.ctrlKey || event.metaKey;
  if (event.key === 'ArrowDown') void move(1);
  else if (event.key === 'ArrowUp') void move(-1);
  else if (control && event.key === 'Enter') void test(row.link);
  else if (event.key === 'Enter') void open(row.link.id).then(() => emit('enter'));
  else if (control && event.key.toLowerCase() === 'c' && getSelection()?.isCollapsed) void copy(row.link);
  else return;
  event.preventDefault();
};

watch(
  () => props.chosen,
  async (id) => {
    await nextTick();
    body.value?.querySelector(`tr[data-link="${id ?? ''}"]`)?.scrollIntoView({ block: 'nearest' });
  },
);
</script>

<template>
  <table class="list">
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
        <th scope="col" class="number conv" title="Conversions, without those taken back">Conv.</th>
        <th scope="col" class="number" title="Earnings per counted click">EPC</th>
      </tr>
    </thead>
    <tbody ref="body">
      <tr
        v-for="(row, i) in rows"
        :key="row.link.id"
        :data-link="row.link.id"
        :class="{ chosen: row.link.id === chosen }"
        :aria-current="row.link.id === chosen ? 'true' : undefined"
        :tabindex="row.link.id === chosen || (i === 0 && !rows.some((r) => r.link.id === chosen)) ? 0 : -1"
        @click="open(row.link.id)"
        @keydown="onKey($event, row)"
      >
        <td class="name">
          <leaf-mark
            :tone="states[row.where].tone"
            :outlined="states[row.where].outlined"
            :title="states[row.where].words"
          />
          <div>
            <div class="slug mono">{{ row.link.slug }}</div>
            <div class="quiet small">
              <span v-if="row.where !== 'live'" class="state">{{ states[row.where].words }} · </span
              >{{ row.link.title }}
            </div>
          </div>
        </td>
        <td class="goes">
          <div class="cut">{{ row.goesTo }}</div>
          <div class="quiet small">{{ row.network }}</div>
        </td>
        <td class="hop number">
          <span class="tile">{{ row.status }}</span>
          <span v-if="row.mark" class="tile outlined">{{ row.mark }}</span>
        </td>
        <td class="spark number"><sparkline :days="row.days" /></td>
        <td class="number">{{ row.visitors }}</td>
        <td class="number" :title="row.commission">{{ row.conversions }}</td>
        <td class="number epc">{{ row.epc }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
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
th.conv {
  width: 54px;
}
th.spark {
  width: 74px;
}
td.hop {
  white-space: nowrap;
}
tbody tr {
  height: 49px;
  cursor: pointer;
}
tbody tr:focus-visible {
  outline-offset: -2px;
}
td {
  padding: 0 6px;
  border-bottom: 1px solid var(--line);
}
td:last-child,
th:last-child {
  padding-right: 16px;
}
.name {
  display: flex;
  align-items: center;
  gap: 8px;
  height: 49px;
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
