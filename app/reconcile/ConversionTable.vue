<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import type { Side } from '#core/reconcile';
import type { LedgerLine, LedgerSort } from '#core/queries';
import { unitAt } from '#core/reconcile';
import SortHeadings from '../theme/SortHeadings.vue';
import type { Column } from '../data/tableLook.ts';
import { money, moment, ownZone } from '../theme/formats.ts';
import { useLinkName } from './linkName.ts';
import { causeWords, levelWords } from './words.ts';

/** Conversions as lines: what we heard, what they report, and the click. */
defineProps<{
  lines: readonly LedgerLine[];
  /** Which way they are sorted by a column, where they are. */
  wayOf: (column: string) => 'up' | 'down' | undefined;
}>();
const emit = defineEmits<{ sort: [column: string] }>();
const withinCurrency = 'Sorted within each currency';
const headings: readonly (Pick<Column<LedgerLine>, 'title' | 'under' | 'hint' | 'number'> & {
  readonly name: LedgerSort['by'];
  readonly sortable: true;
})[] = [
  { name: 'at', title: 'At', under: ownZone, sortable: true },
  { name: 'txn', title: 'Transaction', sortable: true },
  { name: 'link', title: 'Link', sortable: true },
  { name: 'ours', title: 'We heard', hint: withinCurrency, number: true, sortable: true },
  { name: 'theirs', title: 'They report', hint: withinCurrency, number: true, sortable: true },
  { name: 'click', title: 'Click', hint: 'How its click was found', sortable: true },
  { name: 'differs', title: 'Differs', sortable: true },
];
const amount = (side: Side | undefined) =>
  side === undefined ? '—' : side.amount === null ? 'no amount' : money(side.amount, side.currency);
/** What the terms make of a postback without an amount is not what was heard. */
const stateOf = (side: Side | undefined) => (side?.priced ? `${side.status}, by terms` : side?.status);
const nameOf = useLinkName();
</script>

<template>
  <small-table>
    <sort-headings :columns="headings" :way-of="wayOf" @sort="emit('sort', $event)" />
    <tbody>
      <tr v-for="{ unit, click } in lines" :key="unit.id">
        <td>{{ moment(unitAt(unit)) }}</td>
        <td class="mono">
          {{ unit.conversion?.txn || unit.reported?.txn || 'none'
          }}<small>{{ unit.conversion?.event ?? unit.reported?.event }}</small>
        </td>
        <td>
          {{ nameOf(unit.link) || '—' }}<small v-if="unit.source">~{{ unit.source }}</small>
        </td>
        <td class="number" :class="{ back: unit.ours && !unit.ours.counts }">
          {{ amount(unit.ours)
          }}<small>{{
            unit.conversion?.unverified && !unit.conversion.trusted ? 'unverified' : stateOf(unit.ours)
          }}</small>
        </td>
        <td class="number theirs" :class="{ back: unit.theirs && !unit.theirs.counts }">
          {{ amount(unit.theirs) }}<small>{{ unit.theirs?.status }}</small>
        </td>
        <td>
          <router-link
            v-if="click !== '' && unit.link !== ''"
            :to="{ name: 'journey', params: { link: unit.link, click } }"
            >{{ levelWords[unit.match.level] }}</router-link
          >
          <span v-else
            >{{ levelWords[unit.match.level] }}<hint>{{ unit.match.because }}</hint></span
          >
        </td>
        <td>{{ [unit.cause && causeWords[unit.cause][0], ...unit.flags].filter(Boolean).join(', ') }}</td>
      </tr>
    </tbody>
  </small-table>
</template>

<style scoped>
.small-table {
  width: 100%;
  font-size: 13px;
}
.small-table :deep(th) {
  position: sticky;
  top: 0;
  padding: 5px 10px 5px 0;
  font-size: 12px;
  font-weight: 500;
  text-align: left;
  color: var(--ink-two);
  background: var(--surface);
}
td {
  padding: 5px 10px 5px 0;
  vertical-align: top;
  border-top: 1px solid var(--line);
}
small {
  display: block;
  font-size: 12px;
  color: var(--ink-two);
}
.number,
.small-table :deep(th.number) {
  text-align: right;
  white-space: nowrap;
}
.theirs {
  color: var(--slate);
}
.back {
  color: var(--plum);
  text-decoration: line-through;
}
.back small {
  display: inline-block;
  width: 100%;
}
a {
  color: var(--fern);
}
</style>
