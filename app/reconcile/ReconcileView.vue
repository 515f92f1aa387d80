<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, onMounted, onUnmounted, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { monthIn } from '#core/hop';
import type { CaseKind, Cause, ClickCause, Scope } from '#core/reconcile';
import { totalIn } from '#core/reconcile';
import type { BalanceView, GroupView } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { isTyping } from '../shell/keys.ts';
import { saveFile } from '../data/saveFile.ts';
import { tellExported } from '../data/server.ts';
import { ownZone } from '../theme/formats.ts';
import Arriving from './Arriving.vue';
import BalanceTable from './BalanceTable.vue';
import CasePane from './CasePane.vue';
import CloseMonth from './CloseMonth.vue';
import MonthLine from './MonthLine.vue';
import OverdueLine from './OverdueLine.vue';
import PiecePane from './PiecePane.vue';
import QueueList from './QueueList.vue';
import { balanceCsv, queueCsv } from './csv.ts';
import { useAddressOf, useLinkName } from './linkName.ts';
import { caseWords, causeWords, monthWords } from './words.ts';

const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
const nameOf = useLinkName();
const addressOf = useAddressOf();
const months = shallowRef<readonly string[]>([]);
const balance = shallowRef<BalanceView | undefined>();
const groups = shallowRef<readonly GroupView[]>([]);

const text = (value: unknown) => (typeof value === 'string' && value !== '' ? value : undefined);
const network = computed(() => catalogue.network(text(route.params['network'])) ?? catalogue.networks[0]);
/** The month that runs by the network's own calendar, which may be a day ahead of the person's. */
const thisMonth = computed(() => monthIn(network.value?.zone ?? 'UTC', Date.now()));
/** The month asked for, else the newest one that is over. */
const month = computed(
  () =>
    text(route.params['month']) ??
    months.value.find((name) => name < thisMonth.value) ??
    months.value[0] ??
    thisMonth.value,
);
const parts = shallowRef<{ programs: string[]; links: string[]; sources: string[] }>({
  programs: [],
  links: [],
  sources: [],
});
/** One program, link or source of it all, as the address names it. */
const part = computed(() => {
  for (const kind of ['program', 'link', 'source'] as const) {
    const name = text(route.query[kind]);
    if (name !== undefined) return { kind, name };
  }
  return undefined;
});
const scope = computed((): Scope & { network: string } => ({
  network: network.value?.id ?? '',
  month: month.value,
  ...(part.value && { [part.value.kind]: part.value.name }),
}));
const isKind = (name: string | undefined): name is CaseKind =>
  name !== undefined && Object.hasOwn(caseWords, name);
const isCause = (name: string | undefined): name is Cause | ClickCause =>
  name !== undefined && Object.hasOwn(causeWords, name);
const piece = computed(() => {
  const name = text(route.query['piece']);
  return isCause(name) ? name : undefined;
});
/** Whose piece it is: of clicks, of conversions, or of the commission in a currency. */
const pieceAbout = computed(() => text(route.query['of']) ?? 'conversions');
const kind = computed(() => {
  const name = text(route.query['kind']);
  return isKind(name) ? name : groups.value[0]?.kind;
});

watch(
  [network, () => journal.news],
  async ([shown]) => {
    if (shown) months.value = await journalWorker.months(shown.id);
  },
  { immediate: true },
);
watch(
  [() => network.value?.id, month, () => journal.news],
  async ([shown, asked]) => {
    if (shown !== undefined) parts.value = await journalWorker.parts(shown, asked);
  },
  { immediate: true },
);
watch(
  [scope, () => journal.news, () => journal.arriving],
  async ([asked, , arriving]) => {
    // What half of the journal gives is not even kept for a moment.
    if (asked.network === '' || arriving) return;
    const [found, queue] = await Promise.all([journalWorker.balance(asked), journalWorker.queue(asked)]);
    if (asked !== scope.value || journal.arriving) return;
    balance.value = found;
    groups.value = queue;
  },
  { immediate: true },
);

/** Last day of the month looked at. */
const lastDay = computed(() => {
  const [year = 0, number = 1] = month.value.split('-').map(Number);
  return new Date(Date.UTC(year, number, 0)).toISOString().slice(0, 10);
});
const total = computed(() => {
  const { currency } = catalogue.settings;
  const list = balance.value?.commission ?? [];
  if (list.every((one) => one.currency === currency)) return undefined;
  const sum = (side: 'ours' | 'theirs') =>
    totalIn(
      list.map((one) => ({ currency: one.currency, minor: one.bridge[side] })),
      currency,
      lastDay.value,
      catalogue.rates,
    );
  const [ours, theirs] = [sum('ours'), sum('theirs')];
  if (!ours.ok)
    return { currency, by: `No rate of ${ours.missing.join(' and ')} up to ${lastDay.value} is given.` };
  const by = ours.rates.map(({ from, rate, day, source }) => `1 ${from} = ${rate} (${day}, ${source})`);
  return {
    currency,
    by: `${by.join(', ')}.`,
    ours: ours.minor,
    ...(theirs.ok && list.some(({ bridge }) => bridge.reported) && { theirs: theirs.minor }),
  };
});

const closed = computed(() =>
  catalogue.months.find((one) => one.network === scope.value.network && one.month === month.value),
);
/** Why the month cannot be closed now; empty when nothing is in the way. */
const whyOpen = computed(() => {
  if (month.value >= thisMonth.value) return 'It is not over yet';
  if (journal.arriving || !balance.value) return 'The journal is still arriving';
  return balance.value.conversions.reported ? '' : 'No report of it was imported';
});
const fileName = (what: string) =>
  `${what}-${network.value?.name.toLowerCase().replace(/\W+/g, '-') ?? ''}-${month.value}.csv`;
const saveBalance = () => {
  if (!balance.value) return;
  tellExported('a balance as CSV', catalogue.by);
  saveFile(fileName('balance'), 'text/csv', balanceCsv(balance.value));
};
const saveQueue = async () => {
  const lines = await journalWorker.queueLines(scope.value);
  tellExported('the queue as CSV', catalogue.by);
  saveFile(fileName('to-settle'), 'text/csv', queueCsv(lines, ownZone, addressOf));
};

const to = (more: { network?: string; month?: string }) => ({
  name: 'reconcile',
  params: { network: more.network ?? scope.value.network, month: more.month ?? month.value },
  // Another network has other programs and links.
  query: part.value && more.network === undefined ? { [part.value.kind]: part.value.name } : {},
});
const also = (query: Record<string, string>) => ({ ...to({}), query: { ...to({}).query, ...query } });
const toKind = (name: CaseKind) => also({ kind: name });
const open = (cause: Cause | ClickCause, about: string) => router.push(also({ piece: cause, of: about }));
const look = (choice: string) => {
  const [kind = '', name = ''] = choice.split('|', 2);
  return router.push({ ...to({}), query: choice === '' ? {} : { [kind]: name } });
};
/** What can be looked at by itself, in groups to choose from. */
const partItems = computed(() => {
  const { programs, links, sources } = parts.value;
  const group = (title: string, kind: string, list: readonly string[], words: (name: string) => string) =>
    list.length === 0
      ? []
      : [
          { type: 'subheader', title, value: `${kind}|` },
          ...list.map((name) => ({ value: `${kind}|${name}`, title: words(name) })),
        ];
  return [
    { value: '', title: 'Everything' },
    ...group('One program', 'program', programs, (id) => catalogue.program(id)?.name ?? id),
    ...group('One link', 'link', links, nameOf),
    ...group('One source', 'source', sources, (name) => `~${name}`),
  ];
});
const step = (by: 1 | -1) => {
  const next = months.value[months.value.indexOf(month.value) - by];
  if (next !== undefined) void router.push(to({ month: next }));
};
const onKey = (event: KeyboardEvent) => {
  if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === '[') step(-1);
  if (event.key === ']') step(1);
};
onMounted(() => window.addEventListener('keydown', onKey));
onUnmounted(() => window.removeEventListener('keydown', onKey));
</script>

<template>
  <div v-if="network" class="view">
    <header>
      <text-link aria-label="The month before" @click="step(-1)">
        ‹<hint>The month before <v-hotkey keys="[" inline /></hint>
      </text-link>
      <h1>{{ monthWords(month) }}</h1>
      <text-link aria-label="The month after" @click="step(1)">
        ›<hint>The month after <v-hotkey keys="]" inline /></hint>
      </text-link>
      <v-select
        single-line
        class="small-field"
        :items="catalogue.networks.map(({ id, name }) => ({ value: id, title: name }))"
        :model-value="network.id"
        aria-label="Network"
        @update:model-value="router.push(to({ network: $event }))"
      />
      <v-select
        single-line
        class="small-field"
        :items="partItems"
        :model-value="part ? `${part.kind}|${part.name}` : ''"
        aria-label="What of it"
        @update:model-value="look"
      />
      <span class="quiet zone">{{ network.zone }} days</span>
      <span class="actions">
        <v-btn class="quiet-button" :to="{ name: 'ledger', params: { network: network.id, month } }"
          >Ledger</v-btn
        >
        <v-btn class="quiet-button" :to="{ name: 'payments', params: { network: network.id } }"
          >Payments</v-btn
        >
        <v-btn
          class="quiet-button"
          :to="{ name: 'claim', params: { network: network.id, month }, query: to({}).query }"
          >Claim</v-btn
        >
        <v-menu>
          <template #activator="{ props: opens }">
            <v-btn class="quiet-button" :disabled="journal.arriving || !balance" v-bind="opens">Save</v-btn>
          </template>
          <v-list density="compact">
            <v-list-item title="Balance as CSV" @click="saveBalance" />
            <v-list-item title="What waits as CSV" @click="saveQueue" />
          </v-list>
        </v-menu>
        <v-btn class="quiet-button" :to="{ name: 'report', params: { network: network.id } }"
          >Import report</v-btn
        >
        <close-month v-if="!closed && !part" :network="network" :month="month" :why-open="whyOpen" />
      </span>
    </header>
    <arriving v-if="journal.arriving" />
    <balance-table
      v-else-if="balance"
      :balance="balance"
      :network="network.name"
      :total="total"
      @open="open"
    />
    <v-skeleton-loader v-else class="loading" type="list-item-two-line@3" aria-label="Loading" />
    <overdue-line v-if="!journal.arriving" />
    <month-line
      v-if="!journal.arriving"
      :network="network.id"
      :month="month"
      :closed="part ? undefined : closed"
      :balance="balance"
    />
    <div v-if="!journal.arriving" class="below" :class="{ opened: route.query['kind'] || piece }">
      <queue-list :groups="groups" :chosen="piece ? undefined : kind" :to="toKind" />
      <div class="right">
        <piece-pane v-if="piece" :cause="piece" :about="pieceAbout" :scope="scope" />
        <case-pane v-else-if="kind" :key="kind" :kind="kind" :scope="scope" />
        <p v-else-if="balance" class="quiet done">
          Everything of this month is settled, or nothing has been reported yet.
        </p>
      </div>
    </div>
  </div>
  <div v-else class="empty">
    <h1>Reconcile</h1>
    <p>
      Here your own clicks and conversions meet what the networks report. Begin with a network: paste one of
      its tracking links, or add it in <router-link to="/programs">Programs</router-link>.
    </p>
  </div>
</template>

<style scoped>
.view {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 10px;
  padding: 14px 20px 8px;
}
header .text-link {
  font-size: 22px;
  padding: 0 4px;
}
.actions {
  margin-left: auto;
  display: flex;
  gap: 8px;
}
.view > .small-table {
  margin: 0 20px;
  width: calc(100% - 40px);
  border-top: 2px solid var(--ink);
}
.below {
  flex: 1;
  min-height: 0;
  display: flex;
  margin-top: 12px;
  border-top: 1px solid var(--line);
}
.below > nav {
  width: 392px;
  flex: none;
  border-right: 1px solid var(--line);
}
.right {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--surface);
}
.done {
  padding: 16px 18px;
}
.loading {
  min-height: 300px;
  margin: 0 20px;
  background: none;
}
.empty {
  max-width: 560px;
  padding: 20px;
}
.empty a {
  color: var(--fern);
}
@media (max-width: 1100px) {
  .below > nav {
    width: 310px;
  }
}
@media (max-width: 760px) {
  .view {
    overflow: auto;
  }
  .below {
    flex: none;
    display: block;
  }
  .below > nav {
    width: 100%;
    border: 0;
  }
  .zone {
    display: none;
  }
  .actions {
    flex-wrap: wrap;
    margin: 0;
  }
}
</style>
