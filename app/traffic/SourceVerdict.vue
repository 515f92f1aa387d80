<script setup lang="ts">
import { computed } from 'vue';
import { checkRecord, firstProblem } from '#core/catalogue';
import type { Judged, TrafficQuestion } from '#core/queries';
import { defaultRules } from '#core/visits';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { useNewest } from '../place/newest.ts';
import { useNotice } from '../shell/notice.ts';
import HostingCredit from './HostingCredit.vue';
import { count, moment, ownZone } from '../theme/formats.ts';
import {
  judgedCsv,
  machinesWords,
  onwardWords,
  signWords,
  unseenWords,
  verdictPage,
  verdictWords,
} from './verdictWords.ts';

/** Whether the visits of a source are people's: in words, with what it rests on, and what can be done. */
const props = defineProps<{ source: string; question: TrafficQuestion }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const asked = computed(() => ({
  source: props.source,
  from: props.question.from,
  to: props.question.to,
}));
const { found } = useNewest<Judged | undefined>(
  () => [journal.news, asked.value, catalogue.settings.classification],
  () => journalWorker.judged({ ...asked.value }),
  undefined,
);
const { repeatMinutes, burstRequests, burstSeconds } = defaultRules;
const usual = { repeatMinutes, burstRequests, burstSeconds };
/** What speaks for machines comes first. */
const signs = computed(() => found.value?.signs.toSorted((a, b) => Number(b.isOdd) - Number(a.isOdd)) ?? []);

const treat = async () => {
  const machines = found.value?.machines;
  if (!machines) return;
  const { requests, ...rule } = machines;
  const before = catalogue.settings.classification;
  const next = {
    ...catalogue.settings,
    classification: {
      ...(before ?? { ...usual, robots: [] }),
      machines: [
        ...(before?.machines ?? []),
        { ...rule, agents: [...rule.agents], sources: [...rule.sources] },
      ],
    },
  };
  const checked = checkRecord('settings', next);
  if (!checked.ok) {
    notice.say(`Nothing was changed: ${firstProblem(checked)}`);
    return;
  }
  notice.did(
    `${count(requests)} requests count as machines’ now. Setup lists what is treated so.`,
    await catalogue.saveRecord('settings', next),
  );
};
const name = computed(() => `${props.source}-${asked.value.from}-${asked.value.to}`);
const saveCsv = async () =>
  saveFile(
    `requests-${name.value}.csv`,
    'text/csv',
    judgedCsv(await journalWorker.judgedRequests({ ...asked.value }), ownZone),
  );
const savePage = () => {
  if (!found.value) return;
  const page = verdictPage(
    props.source,
    { from: asked.value.from, to: asked.value.to, zone: ownZone, at: Date.now() },
    found.value,
  );
  saveFile(`visits-${name.value}.html`, 'text/html', page);
};
</script>

<template>
  <section v-if="found && !journal.arriving" class="verdict" aria-label="Is it real">
    <h3>{{ verdictWords[found.verdict] }}</h3>
    <p v-if="found.machines && found.verdict !== 'nothing odd'">
      <b>{{ machinesWords(found) }}</b>
    </p>
    <ul>
      <li v-for="sign in signs" :key="sign.name" :class="{ odd: sign.isOdd }">{{ signWords(sign) }}</li>
    </ul>
    <p v-if="signs.length > 0" class="quiet">{{ unseenWords(found) }} {{ onwardWords(found) }}</p>
    <hosting-credit v-if="signs.some(({ name: sign }) => sign === 'hosting')" />
    <p v-for="rule in found.treated" :key="rule.from" class="quiet">
      Treated as machines: {{ moment(rule.from) }} to {{ moment(rule.until) }}
    </p>
    <v-btn v-if="found.machines && found.verdict !== 'nothing odd'" class="quiet-button" @click="treat"
      >Treat {{ count(found.machines.requests) }} as machines</v-btn
    >
    <p v-if="signs.length > 0" class="line">
      For the seller: <text-link @click="saveCsv">requests as CSV</text-link>
      <text-link @click="savePage">page to print</text-link>
    </p>
  </section>
</template>

<style scoped>
.verdict {
  display: grid;
  gap: 6px;
  justify-items: start;
  padding-bottom: 10px;
}
h3,
p,
ul {
  margin: 0;
}
h3 {
  margin-top: 12px;
  font-size: 15px;
}
ul {
  padding: 0;
  list-style: none;
}
.odd {
  color: var(--copper);
  font-weight: 600;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
}
</style>
