<script setup lang="ts">
import { computed, onUnmounted, ref, watch } from 'vue';
import SortHeadings from '../theme/SortHeadings.vue';
import { count } from '../theme/formats.ts';
import LeafStrip from '../theme/LeafStrip.vue';
import type { Line, TrafficColumn } from './trafficColumns.ts';
import { botShare } from './trafficColumns.ts';

/** Traffic as a ranking, with a leaf for each day. */
const props = defineProps<{
  columns: readonly TrafficColumn[];
  lines: readonly Line[];
  chosen: string | undefined;
  wayOf: (column: string) => 'up' | 'down' | undefined;
}>();
const emit = defineEmits<{ sort: [column: string]; choose: [value: string] }>();
/** Rows that are drawn; the others are found by narrowing. */
const most = 300;
/** Rows that are drawn at a time, so that nobody who presses or types meanwhile waits for all of them. */
const atOnce = 8;
const drawn = ref(atOnce);
let next: ReturnType<typeof setTimeout> | undefined;
const drawMore = (): void => {
  clearTimeout(next);
  if (drawn.value >= Math.min(most, props.lines.length)) return;
  next = setTimeout(() => {
    drawn.value += atOnce;
    drawMore();
  });
};
watch(
  () => props.lines,
  (lines, before = []) => {
    // Rows that stay are changed where they stand; others are made anew.
    const known = new Set(before.map(({ value }) => value));
    if (!lines.slice(0, drawn.value).some(({ value }) => known.has(value))) drawn.value = atOnce;
    drawMore();
  },
  { immediate: true },
);
onUnmounted(() => clearTimeout(next));
/** All leaves of the table are of one scale. */
const highest = computed(() => props.lines.reduce((top, { days }) => Math.max(top, ...days), 1));
/** More bots than this are told by colour as well. */
const manyBots = 0.3;
const bold = new Set(['shown', 'visitors', 'epc']);
const nameOf = (line: Line): string => props.columns.find(({ name }) => name === 'value')?.cell(line) ?? '';
</script>

<template>
  <div class="table-scroll" tabindex="0" role="region" aria-label="Ranking">
    <small-table aria-label="Traffic">
      <sort-headings :columns="columns" :way-of="wayOf" @sort="emit('sort', $event)" />
      <tbody>
        <tr
          v-for="line in lines.slice(0, Math.min(most, drawn))"
          :key="line.value"
          :class="{ chosen: line.value === chosen }"
        >
          <td
            v-for="column in columns"
            :key="column.name"
            :class="{
              number: column.number,
              strong: bold.has(column.name) || (column.name === 'change' && line.changed),
              many: botShare(line) > manyBots && (column.name === 'bots' || column.name === 'days'),
            }"
          >
            <text-link
              v-if="column.name === 'value'"
              class="value"
              :aria-pressed="line.value === chosen"
              @click="emit('choose', line.value)"
              >{{ column.cell(line) }}</text-link
            >
            <leaf-strip
              v-else-if="column.name === 'days'"
              :days="line.days"
              :most="highest"
              :label="`${nameOf(line)}, ${column.title.toLowerCase()}`"
            />
            <template v-else
              >{{ column.cell(line)
              }}<small v-if="column.below?.(line)" class="quiet">{{ column.below(line) }}</small></template
            >
          </td>
        </tr>
      </tbody>
    </small-table>
  </div>
  <p v-if="lines.length > most" class="quiet">
    The first {{ count(most) }} of {{ count(lines.length) }}. Narrow what is asked to see others.
  </p>
</template>

<style scoped>
.table-scroll {
  overflow-x: auto;
}
td:first-child {
  min-width: 104px;
  max-width: 240px;
}
.strip {
  min-width: 96px;
}
.number {
  text-align: end;
  white-space: nowrap;
  font-variant-numeric: tabular-nums;
}
.chosen {
  background: var(--fern-soft);
}
.value {
  overflow-wrap: anywhere;
}
.strong {
  font-weight: 650;
}
small {
  display: block;
  font-size: 12px;
  font-weight: 400;
}
.many {
  color: var(--copper);
  font-weight: 650;
}
.many :deep(.strip) {
  fill: var(--copper);
}
</style>
