<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed } from 'vue';
import type { Cause, ClickCause } from '#core/reconcile';
import type { BalanceView, BridgeView } from '#core/queries';
import { count, money } from '../theme/formats.ts';
import BridgeChart from './BridgeChart.vue';

/** Commission of every currency as one sum, by the person's rates; or why there is none. */
export interface OneTotal {
  readonly currency: string;
  readonly ours?: number;
  readonly theirs?: number;
  readonly by: string;
}
const props = defineProps<{ balance: BalanceView; network: string; total?: OneTotal | undefined }>();
const emit = defineEmits<{ open: [cause: Cause | ClickCause, about: string] }>();

interface Row {
  readonly key: string;
  readonly name: string;
  readonly under: string;
  readonly bridge: BridgeView<Cause | ClickCause>;
  readonly write: (value: number) => string;
}
const rows = computed((): Row[] => [
  {
    key: 'clicks',
    name: 'Clicks',
    under: 'per link and day',
    bridge: props.balance.clicks,
    write: count,
  },
  {
    key: 'conversions',
    name: 'Conversions',
    under: 'as postbacks told them',
    bridge: props.balance.conversions,
    write: count,
  },
  ...props.balance.commission.map(({ currency, bridge }): Row => ({
    key: currency,
    name: 'Commission',
    under: `not reversed, ${currency}`,
    bridge,
    write: (value) => money(value, currency),
  })),
]);
const left = (row: Row) =>
  row.bridge.unexplained === 0
    ? row.write(0)
    : `${row.bridge.unexplained > 0 ? '+' : '\u2212'}${row.write(Math.abs(row.bridge.unexplained))}`;
const share = ({ bridge }: Row) =>
  bridge.theirs === 0 || bridge.unexplained === 0
    ? ''
    : `${((Math.abs(bridge.unexplained) / bridge.theirs) * 100).toFixed(1)} % of theirs`;
</script>

<template>
  <small-table>
    <thead>
      <tr>
        <th scope="col"><span class="visually-hidden">What</span></th>
        <th scope="col" class="number">We recorded</th>
        <th scope="col" class="number">They report</th>
        <th scope="col">What explains the difference</th>
        <th scope="col" class="number">Unexplained</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="row in rows" :key="row.key">
        <th scope="row">
          {{ row.name }}<small>{{ row.under }}</small>
        </th>
        <td class="number ours">{{ row.write(row.bridge.ours) }}</td>
        <td class="number theirs">
          <template v-if="row.bridge.reported">{{ row.write(row.bridge.theirs) }}</template>
          <span v-else>no report<hint>No report of theirs was imported for it</hint></span>
        </td>
        <td>
          <bridge-chart
            v-if="row.bridge.reported"
            :bridge="row.bridge"
            :write="row.write"
            :about="row.name.toLowerCase()"
            @open="emit('open', $event, row.key)"
          />
          <span v-else class="quiet">Import {{ network }}’s report to compare.</span>
        </td>
        <td class="number left" :class="{ none: row.bridge.unexplained === 0 }">
          <template v-if="row.bridge.reported"
            >{{ left(row) }}<small>{{ share(row) }}</small></template
          >
        </td>
      </tr>
      <tr v-if="total" class="total">
        <th scope="row">
          All commission<small>in {{ total.currency }}</small>
        </th>
        <td class="number ours">
          {{ total.ours === undefined ? '—' : money(total.ours, total.currency) }}
        </td>
        <td class="number theirs">
          {{ total.theirs === undefined ? '—' : money(total.theirs, total.currency) }}
        </td>
        <td class="quiet">
          {{ total.by }} <router-link :to="{ name: 'setup', hash: '#rates' }">Exchange rates</router-link>
        </td>
        <td class="number left">
          <template v-if="total.ours !== undefined && total.theirs !== undefined">{{
            money(total.theirs - total.ours, total.currency)
          }}</template>
        </td>
      </tr>
    </tbody>
  </small-table>
</template>

<style scoped>
.small-table {
  width: 100%;
}
th {
  font-weight: 600;
  text-align: left;
  white-space: nowrap;
}
thead th {
  padding: 5px 10px;
  font-size: 12px;
  font-weight: 500;
  color: var(--ink-two);
  border-bottom: 1px solid var(--line);
}
tbody th,
td {
  padding: 6px 10px;
  vertical-align: middle;
  border-bottom: 1px solid var(--line);
}
small {
  display: block;
  font-size: 12px;
  font-weight: 400;
  color: var(--ink-two);
}
.number {
  text-align: right;
}
td.number {
  font-size: 19px;
  white-space: nowrap;
}
.ours {
  color: var(--fern);
}
.theirs {
  color: var(--slate);
}
.theirs span {
  font-size: 13px;
}
.left {
  color: var(--copper);
}
td a {
  color: var(--fern);
}
.left.none {
  color: var(--ink-two);
}
@media (max-width: 760px) {
  thead {
    display: none;
  }
  tr {
    display: grid;
    grid-template-columns: 1fr auto auto auto;
    border-bottom: 1px solid var(--line);
  }
  th,
  td {
    padding: 5px 6px;
    border: 0 !important;
  }
  td.number {
    font-size: 15px;
  }
  td:nth-child(4) {
    grid-column: 1 / -1;
    grid-row: 2;
  }
}
</style>
