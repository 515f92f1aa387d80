<script setup lang="ts">
import PickFiles from '../theme/PickFiles.vue';
import DayField from '../theme/DayField.vue';
import type { Remote } from 'comlink';
import { proxy, wrap } from 'comlink';
import { computed, onUnmounted, ref, shallowRef, toRaw, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { AlikeWord, BadRow, Network, ReportProfile, ReportRole, Status } from '#core/catalogue';
import type { ReportChoices, ReportQuestion } from '#core/conversions';
import { learnProfile, likelyCover } from '#core/conversions';
import { dayIn, momentOf } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker } from '../data/journal.ts';
import { newId } from '../data/random.ts';
import { useNotice } from '../shell/notice.ts';
import { count } from '../theme/formats.ts';
import BadRows from '../theme/BadRows.vue';
import ReportQuestions from './ReportQuestions.vue';
import ReportReadingFields from './ReportReadingFields.vue';
import ReportSums from './ReportSums.vue';
import type { OpenedFile, ReadSummary, ReportWorker, Unlisted } from './report.worker.ts';

const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const mostBytes = 100 * 1024 * 1024;

const start = () => {
  const thread = new Worker(new URL('./report.worker.ts', import.meta.url), { type: 'module' });
  const remote: Remote<ReportWorker> = wrap<ReportWorker>(thread);
  return { thread, remote };
};
let worker = start();
onUnmounted(() => worker.thread.terminate());

const networkId = ref(typeof route.params['network'] === 'string' ? route.params['network'] : '');
const network = computed(() => catalogue.network(networkId.value) ?? catalogue.networks[0]);
const file = shallowRef<File | undefined>();
const opened = shallowRef<OpenedFile | undefined>();
const profile = ref<ReportProfile | undefined>();
/** What a person said of the reading besides. */
const said = ref<Partial<ReportProfile>>({});
/** What of the questions was answered. */
const answered = ref<readonly (ReportQuestion | 'zone')[]>([]);
const choices = ref<ReportChoices>({});
/** What a person said of columns besides. */
const roles = ref<Record<string, ReportRole>>({});
/** What the network's own words for states mean, as it was said here. */
const taught = ref<Record<string, Status>>({});
const asks = computed((): ReportQuestion[] => {
  const { asks: open = [], states = [] } = opened.value?.reading ?? {};
  const isTaught = states.every(({ word }) => taught.value[word] !== undefined);
  return open.filter((what) => !answered.value.includes(what) && !(what === 'states' && isTaught));
});
const summary = shallowRef<ReadSummary | undefined>();
/** What its days hold and it does not list; and whether it lists all of them, which is asked where much is missing. */
const unlisted = shallowRef<Unlisted>({ gone: 0, unheard: 0, heard: 0 });
const whole = ref<boolean | undefined>();
const cover = ref({ from: '', until: '' });
const problem = ref('');
const working = ref(false);
const progress = ref(0);

const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(toRaw(value)));
const stranger = computed(() => {
  const known = network.value?.report?.columns;
  const header = opened.value?.header ?? [];
  return (
    known !== undefined && header.filter((name) => Object.hasOwn(known, name)).length * 2 < header.length
  );
});

/** The network with what was taught here. */
const knowing = computed((): Network | undefined => {
  const of = network.value;
  if (!of) return undefined;
  const known = plain(of);
  return {
    ...known,
    postback: { ...known.postback, statuses: { ...known.postback.statuses, ...taught.value } },
  };
});
/** A report that lists less than four fifths of what is known of its days may be a part of them. */
const mostMissing = 0.2;
const isDoubtful = ({ gone, unheard, heard }: Unlisted, listed: number) =>
  gone > (listed + gone) * mostMissing || unheard > heard * mostMissing;
/** A comparison that is under way says nothing once another has begun, and never overrides what a person chose meanwhile. */
let comparing = 0;
const chooseWhole = (value: boolean | null) => {
  comparing += 1;
  whole.value = value ?? undefined;
};
const compareDays = async () => {
  comparing += 1;
  const mine = comparing;
  const [reporting, found] = [network.value, summary.value];
  const { from, until } = cover.value;
  if (!reporting || !found || from === '' || until === '') return;
  const begin = momentOf(reporting.zone, `${from}T00:00`);
  const end = momentOf(reporting.zone, `${until}T00:00`) + 86_400_000;
  const heard = await journalWorker.heard(reporting.id, begin, end).catch(() => []);
  unlisted.value = await worker.remote.unlisted(begin, end, heard);
  if (mine === comparing) whole.value = isDoubtful(unlisted.value, found.good) ? undefined : true;
};
watch(
  () => `${cover.value.from} ${cover.value.until}`,
  () => void compareDays(),
);

const reportsOf = (id: string) =>
  catalogue.reports.filter((report) => report.network === id).map((report) => toRaw(report));
const read = async () => {
  const [reporting, how] = [knowing.value, profile.value];
  if (!reporting || !how || asks.value.length > 0) return;
  working.value = true;
  progress.value = 0;
  try {
    summary.value = await worker.remote.read(
      plain(how),
      reporting,
      reportsOf(reporting.id),
      proxy((done: number) => void (progress.value = done)),
    );
    const now = dayIn(reporting.zone, Date.now());
    if (summary.value.from !== '') cover.value = likelyCover(summary.value.from, summary.value.until, now);
    await compareDays();
  } finally {
    working.value = false;
  }
};
const rowsOf = (n: number) => `${count(n)} ${n === 1 ? 'row' : 'rows'}`;
/** Reads a file; with its heading on the line a person pointed at. */
const take = async (picked: File | undefined, headerLine?: number) => {
  const reporting = network.value;
  if (!picked || !reporting) return;
  problem.value = '';
  opened.value = undefined;
  summary.value = undefined;
  choices.value = {};
  roles.value = {};
  taught.value = {};
  answered.value = [];
  said.value = {};
  if (picked.size > mostBytes) {
    problem.value = `${picked.name} has ${Math.round(picked.size / 1024 / 1024)} MB; 100 MB are the most. Download a shorter stretch of days.`;
    return;
  }
  file.value = picked;
  working.value = true;
  try {
    const found = await worker.remote.open(picked, plain(reporting), reportsOf(reporting.id), headerLine);
    if ('message' in found) {
      problem.value = `${picked.name}: ${found.message}`;
      return;
    }
    opened.value = found;
    profile.value = plain(found.reading.profile);
  } catch (error) {
    problem.value = `${picked.name} could not be read: ${error instanceof Error ? error.message : String(error)} Nothing was brought in.`;
    return;
  } finally {
    working.value = false;
  }
  await read();
};
const stop = () => {
  worker.thread.terminate();
  worker = start();
  working.value = false;
  opened.value = undefined;
  summary.value = undefined;
  problem.value = 'You stopped it. Nothing was brought in.';
};
const correct = async (more: Partial<ReportProfile>, what: ReportQuestion | 'zone') => {
  if (!profile.value) return;
  said.value = { ...said.value, ...more };
  profile.value = { ...profile.value, ...more };
  answered.value = [...answered.value, what];
  await read();
};
/** Takes an answer about a column; what stands in it may leave the order of dates or the decimals open. */
const answer = async (given: ReportChoices) => {
  if (!network.value || !opened.value) return;
  choices.value = { ...choices.value, ...given };
  const reading = await worker.remote.guess(knowing.value ?? plain(network.value), plain(choices.value));
  opened.value = { ...opened.value, reading };
  const found = plain(reading.profile);
  profile.value = { ...found, ...said.value, columns: { ...found.columns, ...roles.value } };
  await read();
};
const setRole = async (name: string, role: ReportRole) => {
  if (!profile.value) return;
  const { [name]: _, ...others } = roles.value;
  roles.value = role === 'amount' || role === 'at' ? others : { ...others, [name]: role };
  if (role === 'amount' || role === 'at') return answer({ [role]: name });
  profile.value = { ...profile.value, columns: { ...profile.value.columns, [name]: role } };
  answered.value = [...answered.value, 'columns'];
  await read();
};
const teach = async (word: string, status: Status) => {
  taught.value = { ...taught.value, [word]: status };
  await read();
};
const mend = async (row: BadRow, cells: readonly string[]) => {
  await worker.remote.mend(row.line, [...cells]);
  await read();
};
const mendAll = async (alike: AlikeWord, by: string) => {
  await worker.remote.mendAlike({ ...alike }, by);
  await read();
};
const bring = async () => {
  const [reporting, how, found] = [knowing.value, profile.value, summary.value];
  if (!reporting || !how || !found || !file.value) return;
  if (!isClicks.value && whole.value === undefined) return;
  working.value = true;
  try {
    const batch = newId('rep').slice(4);
    const parts = await worker.remote.parts({
      network: reporting.id,
      batch,
      file: file.value.name,
      at: Date.now(),
      ...plain(cover.value),
      part: whole.value === false,
    });
    const learned: Network = { ...reporting, report: learnProfile(reporting.report, plain(how)) };
    const step = await catalogue.save(
      { kind: 'network', value: learned },
      ...parts.map((value) => ({ kind: 'report' as const, value })),
    );
    notice.did(
      `New of ${reporting.name}: ${rowsOf(found.fresh)}; changed: ${rowsOf(found.changed)}. They are brought in.`,
      step,
    );
    await router.push({
      name: 'reconcile',
      params: { network: reporting.id, month: cover.value.until.slice(0, 7) },
    });
  } finally {
    working.value = false;
  }
};
/** What the days hold and the file lacks, in words. */
const missing = computed(() => {
  const { gone, unheard } = unlisted.value;
  const parts = [
    ...(unheard > 0 ? [`${count(unheard)} ${unheard === 1 ? 'conversion' : 'conversions'} we heard of`] : []),
    ...(gone > 0 ? [`${rowsOf(gone)} of earlier reports`] : []),
  ];
  return parts.length === 0
    ? 'It lists everything we know of these days.'
    : `It lacks ${parts.join(' and ')}.`;
});
const isClicks = computed(() => opened.value?.reading.kind === 'clicks');
const change = (id: string | undefined) => {
  networkId.value = id ?? '';
  void take(file.value);
};
</script>

<template>
  <div class="report" @dragover.prevent @drop.prevent="take($event.dataTransfer?.files[0])">
    <header>
      <text-link :to="{ name: 'reconcile', params: { network: network?.id ?? '' } }">← Balance</text-link>
      <h1>Import a report</h1>
      <v-select
        single-line
        class="small-field"
        :items="catalogue.networks.map(({ id, name }) => ({ value: id, title: name }))"
        :model-value="network?.id"
        aria-label="Network"
        @update:model-value="change"
      />
    </header>
    <p v-if="!network" class="quiet">Add the network in Programs first.</p>
    <pick-files v-else @files="take($event[0])">
      <strong>{{ file ? file.name : 'Drop a report here, or choose one' }}</strong>
      <span class="quiet">{{
        opened
          ? `${count(opened.rows)} rows, ${opened.format}`
          : 'CSV, tabs, semicolons, XLSX, JSON or a saved table, as the network hands it out'
      }}</span>
    </pick-files>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <p v-if="stranger" class="bad" role="note">
      These headings are not those of the last report of {{ network?.name }}. Is it another network’s?
    </p>
    <report-questions
      v-if="opened && profile"
      :opened="opened"
      :profile="profile"
      :asks="asks"
      :taught="taught"
      @correct="correct"
      @answer="answer"
      @teach="teach"
    />
    <report-reading-fields
      v-if="opened && profile"
      :opened="opened"
      :profile="profile"
      :asks="asks"
      @correct="correct"
      @role="setRole"
      @heading="take(file, $event)"
    />
    <p v-if="working" role="status">
      {{ progress > 0 ? `${count(progress)} rows read.` : 'Reading.' }}
      <text-link @click="stop">Stop</text-link>
    </p>
    <template v-if="summary && asks.length === 0">
      <bad-rows
        v-if="opened && summary.bad > 0"
        :rows="summary.shownBad"
        :total="summary.bad"
        :header="opened.header"
        :alike="summary.alike"
        @mend="mend"
        @mend-all="mendAll"
      />
      <section aria-label="What will happen">
        <h2>
          {{ count(summary.good) }} {{ summary.good === 1 ? 'row is' : 'rows are' }} good{{
            summary.fileRows > summary.good ? ', those of one order added up' : ''
          }}
        </h2>
        <p v-if="!isClicks" role="status">
          {{ count(summary.fresh) }} new, {{ count(summary.changed) }} changed since they were last reported,
          {{ count(summary.same) }} known already.
        </p>
        <report-sums v-if="!isClicks" :sums="summary.sums" :before="summary.before" />
        <p v-if="summary.twiceHour > 0" class="quiet">
          {{ rowsOf(summary.twiceHour) }} lie in the hour that came twice when clocks were set back; the first
          is taken.
        </p>
        <p v-if="isClicks" role="status">Clicks of {{ count(summary.good) }} days and labels.</p>
        <p class="cover">
          It covers
          <day-field v-model="cover.from" aria-label="First day it covers" />
          to
          <day-field v-model="cover.until" aria-label="Last day it covers" />
        </p>
        <v-radio-group
          v-if="!isClicks"
          :model-value="whole ?? null"
          class="whole"
          :class="{ asked: whole === undefined }"
          hide-details
          :label="missing"
          @update:model-value="chooseWhole"
        >
          <v-radio :value="true" label="It lists all of these days: what it lacks is missing there" />
          <v-radio :value="false" label="It lists a part of them: nothing follows from what it lacks" />
        </v-radio-group>
        <v-btn
          color="primary"
          :disabled="summary.good === 0 || cover.from === '' || (!isClicks && whole === undefined)"
          :loading="working"
          @click="bring"
          >{{
            isClicks
              ? 'Bring in the clicks'
              : summary.fresh + summary.changed === 0
                ? 'Keep that it covers these days'
                : `Bring in ${rowsOf(summary.fresh + summary.changed)}`
          }}</v-btn
        >
      </section>
    </template>
  </div>
</template>

<style scoped>
.report {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 8px 12px;
}
section {
  margin-top: 16px;
}
.cover {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px;
}
.whole {
  max-width: 620px;
  margin: 8px 0 14px;
}
.whole.asked {
  padding: 8px 12px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.bad {
  color: var(--copper);
}
</style>
