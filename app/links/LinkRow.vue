<script setup lang="ts">
import { computed } from 'vue';
import type { Link } from '#core/catalogue';
import { useJournal } from '../data/journal.ts';
import LeafMark from '../theme/LeafMark.vue';
import type { LinkColumn } from './linkColumns.ts';
import type { useLinkFacts } from './linkRows.ts';
import Sparkline from './Sparkline.vue';

/** A link as a row of the list. It is drawn anew only when something of its own changes, not whenever the list is scrolled. */
const {
  link,
  columns,
  facts,
  picked = undefined,
} = defineProps<{
  link: Link;
  columns: readonly { readonly column: LinkColumn; readonly looks: string }[];
  facts: ReturnType<typeof useLinkFacts>;
  chosen: boolean;
  /** Whether it is picked for a change of many; undefined while none is under way. */
  picked?: boolean | undefined;
  /** Its place in the list, the first is 0. */
  rank: number;
  /** Tab comes to this row. */
  tabbable: boolean;
}>();
defineEmits<{ choose: []; pick: []; key: [event: KeyboardEvent] }>();
const journal = useJournal();

const noDays = Array.from({ length: 14 }, () => 0);
const states = {
  live: { tone: 'fern', outlined: false, words: 'Live' },
  here: { tone: 'copper', outlined: true, words: 'Saved here, not live yet' },
  refused: { tone: 'copper', outlined: false, words: 'Refused by the server' },
  conflict: { tone: 'copper', outlined: false, words: 'Changed by somebody else too' },
} as const;
const where = computed(() => facts.where(link));
const opening = computed(() => facts.opening(link));
const mark = computed(() => facts.mark(link));
const cells = computed(() =>
  columns.map(({ column, looks }) => ({ name: column.name, looks, cell: column.cell?.(link) })),
);
</script>

<template>
  <tr
    :data-link="link.id"
    :class="{ chosen }"
    :aria-current="chosen ? 'true' : undefined"
    :aria-rowindex="rank + 2"
    :tabindex="tabbable ? 0 : -1"
    @click="$emit('choose')"
    @keydown="$emit('key', $event)"
  >
    <td class="name">
      <v-checkbox-btn
        v-if="picked !== undefined"
        tabindex="-1"
        density="compact"
        :model-value="picked"
        :aria-label="`Pick ${link.slug}`"
        @click.stop
        @update:model-value="$emit('pick')"
      />
      <leaf-mark :tone="states[where].tone" :outlined="states[where].outlined" :title="states[where].words" />
      <div>
        <div class="slug mono">
          {{ link.slug }}<span v-if="link.starred" class="star" title="Starred"> ★</span>
        </div>
        <div class="quiet small">
          <span v-if="where !== 'live'" class="state">{{ states[where].words }} · </span
          ><span v-if="opening !== ''" class="state">{{ opening }} · </span>{{ link.title }}
        </div>
      </div>
    </td>
    <td v-for="{ name, looks, cell } in cells" :key="name" :class="looks">
      <template v-if="name === 'goes'">
        <div class="cut">{{ facts.goesTo(link) }}</div>
        <div class="quiet small">{{ facts.network(link) ?? 'no network' }}</div>
      </template>
      <template v-else-if="name === 'hop'">
        <span class="tile">{{ facts.hop(link) }}</span>
        <span v-if="mark" class="tile outlined">{{ mark }}</span>
      </template>
      <sparkline
        v-else-if="name === 'days' && !journal.arriving"
        :days="facts.figures(link)?.days ?? noDays"
      />
      <template v-else-if="cell"
        >{{ cell.text }}
        <div v-if="cell.under" class="quiet small">{{ cell.under }}</div></template
      >
    </td>
  </tr>
</template>

<style scoped>
tr {
  height: 49px;
  cursor: pointer;
  border-bottom: 1px solid var(--line);
}
tr:focus-visible {
  outline-offset: -2px;
}
td {
  padding: 0 6px;
  white-space: nowrap;
}
/* A figure has its room; clipping each of them too takes a tenth of a frame. */
td:not(.number, .hop) {
  overflow: hidden;
  text-overflow: ellipsis;
}
td:last-child {
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
.name > .v-checkbox-btn {
  flex: none;
}
.slug {
  font-weight: 600;
}
.star {
  color: var(--copper);
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
.epc .small {
  font-weight: 400;
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
</style>
