<script setup lang="ts">
import type { Column } from '../data/tableLook.ts';
import { amountColumn, useTableLook } from '../data/tableLook.ts';
import SortHeadings from '../theme/SortHeadings.vue';
import Hint from '../theme/Hint.vue';
import { computed, ref, shallowRef, watch } from 'vue';
import type { ClosedMonth } from '#core/catalogue';
import type { BalanceView, BridgeView } from '#core/queries';
import type { Adjustment } from '#core/reconcile';
import { isIntact } from '#core/reconcile';
import { sumByCurrency } from '#core/values';
import { journalWorker, useJournal } from '../data/journal.ts';
import { count, dayMonth, money, signedMoney } from '../theme/formats.ts';
import { monthWords, pieceWords } from './words.ts';

/** Says that a month is closed, what it comes to now, and which changes of closed months count in this one. */
const props = defineProps<{
  network: string;
  month: string;
  closed: ClosedMonth | undefined;
  balance: BalanceView | undefined;
}>();
const journal = useJournal();
const adjustments = shallowRef<readonly Adjustment[]>([]);
const intact = shallowRef<boolean | undefined>();
const open = ref(false);

watch(
  [() => props.network, () => journal.news],
  async ([network]) => {
    const found = await journalWorker.adjustments(network);
    if (network === props.network) adjustments.value = found;
  },
  { immediate: true },
);
watch(
  () => props.closed,
  async (closed) => (intact.value = closed && (await isIntact(closed))),
  { immediate: true },
);
interface Changed {
  readonly currency: string;
  readonly change: number;
}
const sumOf = (list: readonly Changed[]) =>
  sumByCurrency(list.map(({ currency, change }) => ({ currency, minor: change })))
    .map(({ minor, currency }) => signedMoney(minor, currency))
    .join(' and ') || 'nothing in money';
const countOf = (changes: number) => `${count(changes)} ${changes === 1 ? 'change' : 'changes'}`;
const since = computed(() => adjustments.value.filter((one) => one.month === props.month));
const sides = ['ours', 'theirs', 'unexplained'] as const;
type Line = BridgeView<string> | undefined;
/** The pieces of a line that are of another size now: `bots −27, now −63`. */
const piecesMoved = (then: Line, now: Line, write: (value: number) => string): string => {
  const valueOf = (line: Line, cause: string) =>
    line?.pieces.find((piece) => piece.cause === cause)?.value ?? 0;
  const causes = new Set([...(then?.pieces ?? []), ...(now?.pieces ?? [])].map(({ cause }) => cause));
  return [...causes]
    .filter((cause) => valueOf(then, cause) !== valueOf(now, cause))
    .map(
      (cause) => `${pieceWords(cause)[0]} ${write(valueOf(then, cause))}, now ${write(valueOf(now, cause))}`,
    )
    .join('; ');
};
/** Lines of the balance that come to something else now, or are explained otherwise. */
const moved = computed(() => {
  const now = props.balance?.closed?.now;
  if (!props.balance || !now || !props.closed?.shown) return [];
  const { balance } = props;
  const currencies = [...new Set([...balance.commission, ...now.commission].map((one) => one.currency))];
  const inCurrency = (lines: typeof now, currency: string) =>
    lines.commission.find((one) => one.currency === currency)?.bridge;
  return [
    { name: 'Clicks', then: balance.clicks, now: now.clicks, write: count },
    { name: 'Conversions', then: balance.conversions, now: now.conversions, write: count },
    ...currencies.map((currency) => ({
      name: `Commission, ${currency}`,
      then: inCurrency(balance, currency),
      now: inCurrency(now, currency),
      write: (minor: number) => money(minor, currency),
    })),
  ]
    .map((row) => ({ ...row, pieces: piecesMoved(row.then, row.now, row.write) }))
    .filter(
      ({ then: was, now: is, pieces }) =>
        pieces !== '' || sides.some((side) => (was?.[side] ?? 0) !== (is?.[side] ?? 0)),
    );
});
const waited = computed(() => {
  const list = props.closed?.shown?.waiting ?? [];
  const cases = list.reduce((sum, group) => sum + group.count, 0);
  if (cases === 0) return '';
  const worth = sumByCurrency(list.flatMap((group) => group.worth))
    .map(({ minor, currency }) => money(minor, currency))
    .join(' and ');
  return `, with ${count(cases)} ${cases === 1 ? 'difference' : 'differences'} not settled${worth && ` (${worth})`}`;
});
/** Changes of months closed before that count in this one: as it froze them, else as they are. */
const arrived = computed(() => {
  const months = new Map<string, (Changed & { readonly month: string })[]>();
  const list =
    props.closed?.adjusted ??
    (props.closed ? [] : adjustments.value.filter((one) => one.arrived === props.month));
  for (const one of list) months.set(one.month, [...(months.get(one.month) ?? []), one]);
  return [...months];
});
const columns: readonly Column<(typeof since.value)[number]>[] = [
  { name: 'txn', title: 'Conversion', key: ({ txn }) => txn || undefined },
  { name: 'now', title: 'What happened', key: ({ now }) => happened[now] },
  amountColumn(
    'change',
    'Worth',
    ({ change }) => change,
    ({ currency }) => currency,
  ),
  amountColumn(
    'approved',
    'Approved',
    ({ approved }) => approved,
    ({ currency }) => currency,
  ),
  { name: 'arrived', title: 'Counts in', key: ({ arrived: month }) => month },
];
const look = useTableLook('changes', () => columns, []);
const happened: Readonly<Record<Adjustment['now'], string>> = {
  here: 'came or was changed',
  elsewhere: 'is of another month now',
  gone: 'is nowhere any more',
};
</script>

<template>
  <div v-if="closed" class="line" role="note">
    <strong>Closed on {{ dayMonth(closed.at) }}</strong
    >{{ waited }}.
    <template v-if="intact === false">
      <b class="wrong">Its figures no longer fit their checksum: somebody altered them.</b>
    </template>
    <template v-if="since.length === 0 && moved.length === 0">Nothing changed since.</template>
    <template v-else-if="since.length > 0">
      Since then {{ countOf(since.length) }}, {{ sumOf(since) }}; they count in the month in which they
      arrived.
    </template>
    <template v-else>Since then no conversion changed.</template>
    <text-link v-if="since.length + moved.length > 0" :aria-expanded="open" @click="open = !open">
      {{ open ? 'Hide what changed' : 'Show what changed' }}
    </text-link>
    <span class="proof">
      Checksum
      <code
        >{{ closed.checksum.slice(0, 12) }}<hint>{{ closed.checksum }}</hint></code
      ><template v-if="closed.seal"
        >, the journal’s seal then
        <code
          >{{ closed.seal.hash.slice(0, 16) }}<hint>{{ closed.seal.hash }}</hint></code
        >, up to record {{ count(closed.seal.seq) }}</template
      >.
    </span>
    <div v-if="open" class="changes">
      <v-table v-if="moved.length > 0" density="compact">
        <thead>
          <tr>
            <th scope="col"></th>
            <th scope="col" class="number">We recorded, then</th>
            <th scope="col" class="number">now</th>
            <th scope="col" class="number">They reported, then</th>
            <th scope="col" class="number">now</th>
            <th scope="col">Explained otherwise</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="row in moved" :key="row.name">
            <th scope="row">{{ row.name }}</th>
            <td class="number">{{ row.write(row.then?.ours ?? 0) }}</td>
            <td class="number">{{ row.write(row.now?.ours ?? 0) }}</td>
            <td class="number">{{ row.write(row.then?.theirs ?? 0) }}</td>
            <td class="number">{{ row.write(row.now?.theirs ?? 0) }}</td>
            <td>{{ row.pieces }}</td>
          </tr>
        </tbody>
      </v-table>
      <v-table v-if="since.length > 0" density="compact">
        <sort-headings :columns="columns" :way-of="look.wayOf" @sort="look.sortBy" />
        <tbody>
          <tr v-for="(one, i) in look.sorted(since)" :key="i">
            <td class="mono">{{ one.txn || (one.now === 'gone' ? one.keys[0] : 'without transaction') }}</td>
            <td>{{ happened[one.now] }}</td>
            <td class="number">{{ signedMoney(one.change, one.currency) }}</td>
            <td class="number">{{ signedMoney(one.approved, one.currency) }}</td>
            <td>{{ monthWords(one.arrived) }}</td>
          </tr>
        </tbody>
      </v-table>
    </div>
  </div>
  <p v-for="[name, list] in arrived" :key="name" class="line" role="note">
    Adjustment of {{ monthWords(name) }}, closed before: {{ sumOf(list) }} in {{ countOf(list.length) }}.
  </p>
</template>

<style scoped>
.line {
  margin: 6px 20px 0;
  font-size: 13px;
}
.wrong {
  color: var(--copper);
}
.proof,
code {
  color: var(--ink-two);
}
.changes {
  max-height: 260px;
  margin-top: 6px;
  overflow: auto;
  border: 1px solid var(--line);
  border-radius: var(--leaf-button);
}
.number {
  text-align: right !important;
}
</style>
