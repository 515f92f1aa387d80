<script setup lang="ts">
import SortHeadings from '../theme/SortHeadings.vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { ClaimAnswer, Decision } from '#core/catalogue';
import type { ClaimEntry } from '#core/reconcile';
import { claimedSums, readAnswers } from '#core/reconcile';
import { useCatalogue } from '../data/catalogue.ts';
import type { Column } from '../data/tableLook.ts';
import { amountColumn, useTableLook } from '../data/tableLook.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { useSeals } from '../data/seals.ts';
import { tellExported } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { count, dayMonth, money, sums } from '../theme/formats.ts';
import Arriving from './Arriving.vue';
import AnswerForm from './claim/AnswerForm.vue';
import type { ClaimHead } from './claim/claimPage.ts';
import { claimLetter, heardWords, reportedWords } from './claim/claimPage.ts';
import { useDecide } from './settle.ts';
import { caseWords, monthWords } from './words.ts';

/** What a network is asked for a month: what it owes, what it was asked, and what it answered. */
const route = useRoute();
const catalogue = useCatalogue();
const journal = useJournal();
const seals = useSeals();
const notice = useNotice();
const decide = useDecide();
const param = (name: string) => {
  const value = route.params[name];
  return typeof value === 'string' ? value : '';
};
const network = computed(() => catalogue.network(param('network')) ?? catalogue.networks[0]);
const month = computed(() => param('month'));
const entries = shallowRef<readonly ClaimEntry[] | undefined>();
const answering = ref('');
const showsLetter = ref(false);
const problem = ref('');
const scope = computed(() => {
  const query = (name: string) => {
    const value = route.query[name];
    return typeof value === 'string' && value !== '' ? value : undefined;
  };
  const [program, link, source] = [query('program'), query('link'), query('source')];
  return {
    network: network.value?.id ?? '',
    month: month.value,
    ...(program !== undefined && { program }),
    ...(link !== undefined && { link }),
    ...(source !== undefined && { source }),
  };
});
watch(
  [scope, () => journal.news, () => journal.arriving],
  async ([asked, , arriving]) => {
    // What half of the journal gives is not claimed.
    if (asked.network === '' || arriving) return;
    const found = await journalWorker.claim(asked);
    if (asked === scope.value && !journal.arriving) entries.value = found;
  },
  { immediate: true },
);
const order = { 'to ask': 0, asked: 1, answered: 2 } as const;
const rows = computed(() =>
  [...(entries.value ?? [])].sort(
    (a, b) => order[a.state] - order[b.state] || (b.line.claimed ?? 0) - (a.line.claimed ?? 0),
  ),
);
/** What has no answer yet: what the file holds. */
const open = computed(() => rows.value.filter((entry) => entry.state !== 'answered'));
const lines = computed(() => open.value.map(({ line }) => line));
const toAsk = computed(() => open.value.filter((entry) => entry.state === 'to ask'));
const claimedWords = computed(() => sums(claimedSums(lines.value)));
const headOf = (): ClaimHead | undefined =>
  network.value && {
    network: network.value.name,
    zone: network.value.zone,
    month: month.value,
    hosts: [
      ...new Set(lines.value.flatMap(({ link }) => (link === '' ? [] : [link.split('/', 1)[0] ?? '']))),
    ],
    at: Date.now(),
  };
const letter = computed(() => {
  const head = headOf();
  return head ? claimLetter(head, lines.value) : '';
});
const save = async () => {
  const head = headOf();
  if (!head || !network.value) return;
  const seal = await seals.newest();
  const { claimFile } = await import('./claim/claimFile.ts');
  tellExported(`a claim to ${head.network} for ${month.value}`, catalogue.by);
  saveFile(
    `claim-${head.network.toLowerCase().replace(/\W+/g, '-')}-${month.value}.zip`,
    'application/zip',
    claimFile({ ...head, seal }, lines.value),
  );
  if (toAsk.value.length > 0)
    await decide(
      toAsk.value.map((entry) => entry.case),
      'ask',
      'on the claim',
    );
};
const answer = async (list: readonly { case: string; answer: ClaimAnswer }[]) => {
  const byId = new Map(rows.value.map((entry) => [entry.case.id, entry.case.decision]));
  const edits = list.flatMap(({ case: id, answer: given }) => {
    const decision = byId.get(id);
    if (!decision) return [];
    const value: Decision = { ...decision, answer: given };
    return [{ kind: 'decision' as const, value, began: catalogue.rowNow(decision.id) }];
  });
  if (edits.length === 0) return;
  const step = await catalogue.save(...edits);
  answering.value = '';
  notice.did(`${count(edits.length)} ${edits.length === 1 ? 'answer is' : 'answers are'} noted.`, step);
};
const bring = async (files: File | File[] | null) => {
  const file = Array.isArray(files) ? files[0] : files;
  problem.value = '';
  if (!file) return;
  const { openFile } = await import('./openFile.ts');
  const opened = await openFile(file);
  if (!opened.ok) {
    problem.value = opened.message;
    return;
  }
  const asked = rows.value.filter((entry) => entry.state !== 'to ask');
  const read = readAnswers(opened.table, asked, Date.now());
  if (!read) {
    problem.value = 'It is not the rows of a claim: the columns “claim” and “your answer” are missing.';
    return;
  }
  if (read.bad.length > 0)
    problem.value = read.bad
      .slice(0, 5)
      .map(({ line, problems }) => `Line ${line}: ${problems[0]?.message ?? ''}`)
      .join(' ');
  else if (read.answers.length === 0) problem.value = 'No row of it has an answer.';
  await answer(read.answers);
};
const answerWords = ({ answer: given, line }: ClaimEntry): string => {
  if (!given) return '';
  const part = given.amount === undefined ? '' : `: ${money(given.amount, line.claimedCurrency)}`;
  return `${given.kind}${part}${given.reason === '' ? '' : `, “${given.reason}”`}`;
};
const stateWords = (entry: ClaimEntry): string => {
  if (entry.state === 'to ask') return 'not asked yet';
  if (entry.state === 'asked') return `asked on ${dayMonth(entry.case.decision?.at ?? 0)}`;
  return answerWords(entry);
};
const columns: readonly Column<ClaimEntry>[] = [
  {
    name: 'txn',
    title: 'Transaction',
    key: ({ line }) => line.txn || line.clicks?.day,
  },
  { name: 'why', title: 'Why', key: (entry) => caseWords[entry.case.kind][0] },
  {
    name: 'heard',
    title: 'We heard',
    key: ({ line }) => line.heardAmount ?? line.termsAmount ?? line.clicks?.ours,
    band: ({ line }) => line.heardCurrency || line.termsCurrency,
  },
  {
    name: 'reported',
    title: 'They report',
    key: ({ line }) => line.theirAmount ?? line.clicks?.theirs,
    band: ({ line }) => line.theirCurrency,
  },
  amountColumn(
    'claimed',
    'Claimed',
    ({ line }) => line.claimed ?? undefined,
    ({ line }) => line.claimedCurrency,
  ),
  { name: 'answer', title: 'Their answer', key: (entry) => stateWords(entry) },
];
const look = useTableLook('claim', () => columns, []);
const copyLetter = async () => {
  await navigator.clipboard.writeText(letter.value);
  notice.say('The letter is on the clipboard.');
};
</script>

<template>
  <div v-if="network" class="claim">
    <header>
      <text-link :to="{ name: 'reconcile', params: { network: network.id, month }, query: route.query }"
        >← Balance</text-link
      >
      <h1>Claim to {{ network.name }}, {{ monthWords(month) }}</h1>
    </header>
    <arriving v-if="journal.arriving || !entries" />
    <p v-else-if="rows.length === 0">
      There is nothing to claim: nothing is missing there, and the network was asked nothing.
    </p>
    <template v-else>
      <p class="sum">
        <template v-if="claimedWords !== ''"
          ><strong>{{ claimedWords }}</strong> missing in
        </template>
        <template v-if="open.length === 0">Every line is answered.</template>
        <template v-else
          >{{ count(open.length) }} open {{ open.length === 1 ? 'line' : 'lines'
          }}<template v-if="toAsk.length > 0">, {{ count(toAsk.length) }} not asked yet</template>.</template
        >
      </p>
      <div class="actions">
        <v-btn color="primary" :disabled="open.length === 0" @click="save">{{
          toAsk.length > 0 ? `Save claim file and mark ${count(toAsk.length)} as asked` : 'Save claim file'
        }}</v-btn>
        <v-btn
          class="quiet-button"
          :disabled="open.length === 0"
          :aria-expanded="showsLetter"
          @click="showsLetter = !showsLetter"
          >Covering letter</v-btn
        >
        <v-file-input
          class="file"
          label="Their answer: rows.csv, filled"
          accept=".csv,.tsv,.txt,.xlsx,.xls,text/*"
          @update:model-value="bring"
        />
      </div>
      <p v-if="problem" class="open" role="alert">{{ problem }}</p>
      <div v-if="showsLetter && open.length > 0" class="letter">
        <v-textarea :model-value="letter" label="Covering letter" readonly auto-grow rows="8" />
        <v-btn class="quiet-button" @click="copyLetter">Copy letter</v-btn>
      </div>
      <v-table density="compact" class="rows">
        <sort-headings :columns="columns" :way-of="look.wayOf" @sort="look.sortBy">
          <th scope="col"><span class="visually-hidden">What to do</span></th>
        </sort-headings>
        <tbody v-for="entry in look.sorted(rows)" :key="entry.case.id">
          <tr>
            <td>
              <span class="mono">{{ entry.line.txn || entry.line.clicks?.day || 'none' }}</span><small
                class="quiet"
                >{{ entry.line.program || entry.line.clicks?.label }}</small
              >
            </td>
            <td>{{ caseWords[entry.case.kind][0] }}</td>
            <td>{{ heardWords(entry.line) }}</td>
            <td>{{ reportedWords(entry.line) }}</td>
            <td class="number">
              {{ entry.line.claimed === null ? '' : money(entry.line.claimed, entry.line.claimedCurrency) }}
            </td>
            <td>{{ stateWords(entry) }}</td>
            <td class="do">
              <text-link
                v-if="entry.state !== 'to ask'"
                :aria-expanded="answering === entry.case.id"
                @click="answering = answering === entry.case.id ? '' : entry.case.id"
              >
                {{ entry.answer ? 'Change' : 'Note answer' }}
              </text-link>
              <text-link
                v-if="entry.answer?.kind === 'refused'"
                @click="decide([entry.case], 'write off', entry.answer.reason || 'refused by the network')"
              >
                Write off
              </text-link>
            </td>
          </tr>
          <tr v-if="answering === entry.case.id">
            <td colspan="7">
              <answer-form
                :line="entry.line"
                :answer="entry.answer"
                @done="answer([{ case: entry.case.id, answer: $event }])"
              />
            </td>
          </tr>
        </tbody>
      </v-table>
    </template>
  </div>
</template>

<style scoped>
.claim {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 0 12px;
}
.sum {
  margin: 6px 0 10px;
}
.sum strong {
  font-size: 19px;
  font-weight: 500;
  color: var(--copper);
}
.actions {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
  margin-bottom: 12px;
}
.file {
  flex: none;
  width: 320px;
  max-width: 100%;
}
.letter {
  max-width: 820px;
  margin-bottom: 14px;
}
.letter .v-btn {
  margin-top: 8px;
}
.rows td {
  font-size: 13px;
}
.rows tbody {
  border-top: 1px solid var(--line);
}
.rows small {
  display: block;
  font-size: 12px;
}
.number {
  text-align: right !important;
  white-space: nowrap;
}
.do {
  white-space: nowrap;
}
.do button + button {
  margin-left: 10px;
}
.open {
  color: var(--copper);
}
@media (max-width: 760px) {
  .rows th,
  .rows td {
    padding: 0 6px !important;
  }
}
</style>
