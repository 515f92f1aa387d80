<script setup lang="ts">
import { computed } from 'vue';
import type { RouteLocationRaw } from 'vue-router';
import type { Pays } from '#core/queries';
import type { Column } from '../data/tableLook.ts';
import SortHeadings from '../theme/SortHeadings.vue';
import { count, money, signedMoney } from '../theme/formats.ts';
import { bandAxis } from './bandAxis.ts';
import BandCell from './BandCell.vue';
import { reasonOf, verdictNames } from './words.ts';

type Line = Pays['lines'][number];

/** What pays, a row each, with the band of every row on one axis. */
const props = defineProps<{
  lines: readonly Line[];
  columns: readonly Column<Line>[];
  currency: string;
  chosen: string | undefined;
  nameOf: (value: string) => string;
  /** Where the visits and conversions behind a row are shown. */
  behind: (value: string) => RouteLocationRaw;
  wayOf: (column: string) => 'up' | 'down' | undefined;
}>();
const emit = defineEmits<{ sort: [column: string]; choose: [value: string] }>();
const shows = computed(() => new Set(props.columns.map(({ name }) => name)));
/** Rows that are drawn; the others are found by narrowing. */
const most = 200;
const axis = computed(() => bandAxis(props.lines));
const tones: Readonly<Partial<Record<Line['verdict'], string>>> = {
  cut: 'loses',
  scale: 'earns',
  'no rate': 'asks',
};
/** What costs nothing earns where even its worst case does. */
const isGain = ({ verdict, band }: Line): boolean =>
  verdict === 'no cost' && band !== undefined && band.low > 0;
const toneOf = (line: Line) => (isGain(line) ? 'earns' : tones[line.verdict]);
const nameOfVerdict = (line: Line) => (isGain(line) ? 'Earns, costs nothing' : verdictNames[line.verdict]);
</script>

<template>
  <div class="table-scroll" tabindex="0" role="region" aria-label="What pays">
    <small-table aria-label="What pays">
      <sort-headings :columns="columns" :way-of="wayOf" @sort="emit('sort', $event)" />
      <tbody>
        <tr
          v-for="line in lines.slice(0, most)"
          :key="line.value"
          :class="{ chosen: line.value === chosen, lost: line.verdict === 'cut' }"
        >
          <td>
            <text-link
              class="value"
              :aria-pressed="line.value === chosen"
              @click="emit('choose', line.value)"
              >{{ nameOf(line.value) }}</text-link
            >
          </td>
          <td v-if="shows.has('cost')" class="number">
            {{ line.cost === 0 ? '—' : money(line.cost, currency) }}
          </td>
          <td v-if="shows.has('visitors')" class="number">
            <text-link :to="behind(line.value)">{{ count(line.visitors) }}</text-link>
          </td>
          <td v-if="shows.has('sales')" class="number">
            <text-link :to="behind(line.value)">{{ count(line.conversions) }}</text-link>
          </td>
          <td v-if="shows.has('earned')" class="number">
            {{ money(line.approved + line.worth, currency)
            }}<span v-if="line.verdict === 'no rate'"> + ?</span>
          </td>
          <td class="number strong">
            {{ line.verdict === 'no rate' ? '?' : signedMoney(line.profit, currency) }}
          </td>
          <td v-if="shows.has('band')" class="bands">
            <band-cell class="filling" :figures="line" :axis="axis" :currency="currency" />
          </td>
          <td class="verdict">
            <b :class="toneOf(line)">{{ nameOfVerdict(line) }}</b>
            <small class="quiet">{{ reasonOf(line, currency) }}</small>
            <band-cell v-if="!shows.has('band')" :figures="line" :axis="axis" :currency="currency" />
          </td>
        </tr>
      </tbody>
    </small-table>
  </div>
  <p v-if="lines.length > most" class="quiet">
    The first {{ count(most) }} of {{ count(lines.length) }}. Narrow what is asked to see others.
  </p>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
.table-scroll {
  overflow-x: auto;
}
td:first-child {
  min-width: 96px;
  max-width: 220px;
}
.value {
  overflow-wrap: anywhere;
}
.strong {
  font-weight: 650;
}
tbody td {
  border-bottom: 1px solid var(--line);
}
.bands {
  position: relative;
  width: 24%;
  min-width: 120px;
}
.filling {
  position: absolute;
  inset: 0 10px 0 0;
}
.verdict {
  width: 22%;
  min-width: 150px;
  line-height: 1.25;
}
.verdict small {
  display: block;
  font-size: 12px;
}
.chosen {
  background: var(--fern-soft);
}
.chosen.lost {
  background: var(--plum-soft);
}
</style>
