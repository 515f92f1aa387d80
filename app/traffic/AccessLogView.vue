<script setup lang="ts">
import { computed, onUnmounted, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { dayIn, dayName, dayNumber } from '#core/hop';
import { mostDays } from '#core/traffic';
import type { LogReport } from '#core/visits';
import { readAccessLogs } from '../data/accessLogs.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { filesOf } from '../links/droppedFiles.ts';
import { useNotice } from '../shell/notice.ts';
import { count, dateWords } from '../theme/formats.ts';
import PickFiles from '../theme/PickFiles.vue';

/** Requests that another server answered, brought in from its log: first it is said what would come, then it comes. */
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const files = shallowRef<readonly File[]>([]);
const host = ref('');
const report = shallowRef<LogReport | undefined>();
const problem = ref('');
const doing = ref<'dry run' | 'bring in' | undefined>();
const sent = ref(0);
const size = computed(() => files.value.reduce((sum, file) => sum + file.size, 0));
let stopping = new AbortController();
onUnmounted(() => stopping.abort());

/** Reads the files; gives the last report, or undefined where it was stopped or failed. */
const read = async (dryRun: boolean): Promise<LogReport | undefined> => {
  stopping = new AbortController();
  const { signal } = stopping;
  doing.value = dryRun ? 'dry run' : 'bring in';
  problem.value = '';
  sent.value = 0;
  try {
    const reading = { host: host.value, dryRun, by: catalogue.by };
    for await (const step of readAccessLogs(files.value, reading, signal)) {
      sent.value = step.sent;
      report.value = step.report;
      if (step.isWhole) return step.report;
    }
  } catch (error) {
    if (!signal.aborted) problem.value = error instanceof Error ? error.message : String(error);
  } finally {
    doing.value = undefined;
  }
  return undefined;
};
const isRead = ref(false);
const look = async () => {
  report.value = undefined;
  isRead.value = false;
  isRead.value = (await read(true)) !== undefined;
};
const take = (picked: readonly File[]) => {
  if (picked.length === 0 || doing.value !== undefined) return;
  // The oldest first, so that what was rotated follows itself.
  files.value = picked.toSorted((a, b) => a.lastModified - b.lastModified || (a.name < b.name ? -1 : 1));
  host.value = '';
  void look();
};
const setHost = (chosen: string | null) => {
  host.value = chosen ?? '';
  void look();
};
const bring = async () => {
  isRead.value = false;
  const last = await read(false);
  if (!last) return;
  notice.say(`${requests(last.fresh.count)} brought in.`);
  // Somebody else may have brought them in meanwhile.
  if (last.fresh.count === 0) return;
  const zone = catalogue.domains.toSorted((a, b) => (a.id < b.id ? -1 : 1))[0]?.zone ?? 'UTC';
  const [first, to] = [dayIn(zone, last.from), dayIn(zone, last.until)];
  const from = dayNumber(to) - dayNumber(first) < mostDays ? first : dayName(dayNumber(to) - mostDays + 1);
  await router.push({ name: 'traffic', query: { by: 'link', from, to } });
};
const requests = (n: number) => `${count(n)} ${n === 1 ? 'request is' : 'requests are'}`;
const forms = { combined: 'combined', extended: 'W3C extended', json: 'JSON lines' } as const;
const domains = computed(() => catalogue.domains.map((domain) => domain.host));
const days = computed(() => {
  const { from = 0, until = 0 } = report.value ?? {};
  const [first, last] = [dateWords(from), dateWords(until)];
  return first === last ? first : `${first} to ${last}`;
});
interface Rest {
  readonly words: string;
  readonly count: number;
  readonly most: readonly (readonly [string, number])[];
}
/** The lines that are not brought in. */
const rest = computed((): readonly Rest[] => {
  const found = report.value;
  if (!found) return [];
  const none: Rest['most'] = [];
  return [
    { words: 'are in the journal already', count: found.known, most: none },
    { words: 'ask for something else than a link', ...found.noLink },
    { words: 'ask a host that is none of your domains', ...found.otherHosts },
    { words: 'name no host', count: found.noHost, most: none },
    { words: 'are of a time of which only daily counts are kept', count: found.rolledUp, most: none },
    { words: 'are no requests: comments, headings, empty lines', count: found.none, most: none },
    { words: 'cannot be read', count: found.unread.count, most: none },
  ].filter((one) => one.count > 0);
});
const titleOf = (link: string) => catalogue.link(link)?.slug ?? link;
const onDrop = (event: DragEvent) => void filesOf(event.dataTransfer).then(take);
</script>

<template>
  <div class="logs" @dragover.prevent @drop.prevent="onDrop">
    <header>
      <text-link :to="{ name: 'traffic' }">← Traffic</text-link>
      <h1>Access logs</h1>
    </header>
    <pick-files multiple @files="take">
      <strong>Drop logs here, or choose them.</strong>
      <span class="quiet">
        Requests for your short links that another web server answered: combined as Apache and nginx write it,
        W3C extended, or JSON a line, also packed by gzip. Visitors’ addresses are not kept.
      </span>
    </pick-files>

    <div v-if="doing" class="progress">
      <v-progress-linear
        :model-value="size > 0 ? (sent / size) * 100 : 0"
        color="primary"
        height="6"
        aria-label="How much is read"
      />
      <v-btn class="quiet-button" @click="stopping.abort()">Stop</v-btn>
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>

    <section v-if="report" aria-label="What is in the logs">
      <h2>
        <span role="status"
          >{{ requests(report.fresh.count) }} new<template v-if="report.fresh.count > 0"
            >, {{ days }}</template
          ><template v-if="doing">, so far</template></span
        >
      </h2>
      <ul class="files">
        <li v-for="(file, i) in report.files" :key="i">
          <b>{{ file.name }}</b>
          <span v-if="file.problem" class="bad"> {{ file.problem }}</span>
          <span v-else-if="file.form" class="quiet"> {{ forms[file.form] }}</span>
        </li>
      </ul>
      <div v-if="isRead && !doing" class="does">
        <v-select
          v-if="report.noHost > 0 || host !== ''"
          class="domain"
          label="Which domain was asked"
          :items="domains"
          :model-value="host || null"
          hint="The log does not say."
          persistent-hint
          @update:model-value="setHost"
        />
        <v-btn v-if="report.fresh.count > 0" color="primary" @click="bring">
          Bring in {{ count(report.fresh.count) }} {{ report.fresh.count === 1 ? 'request' : 'requests' }}
        </v-btn>
        <span v-if="report.fresh.count > 0" class="quiet"
          >They stay in the journal for good. The same log again brings nothing in twice.</span
        >
      </div>
      <div class="lists">
        <div v-if="report.fresh.count > 0">
          <h3>By link</h3>
          <small-table>
            <tbody>
              <tr v-for="[link, n] in report.fresh.most" :key="link">
                <td class="mono">{{ titleOf(link) }}</td>
                <td class="number">{{ count(n) }}</td>
              </tr>
            </tbody>
          </small-table>
        </div>
        <div v-if="rest.length > 0">
          <h3>The other lines</h3>
          <small-table>
            <tbody v-for="one in rest" :key="one.words">
              <tr>
                <td>{{ one.words }}</td>
                <td class="number">{{ count(one.count) }}</td>
              </tr>
              <tr v-for="[text, n] in one.most" :key="text" class="quiet">
                <td class="mono text">{{ text }}</td>
                <td class="number">{{ count(n) }}</td>
              </tr>
            </tbody>
          </small-table>
        </div>
      </div>
      <template v-if="report.unread.count > 0">
        <h3>What cannot be read</h3>
        <ul class="unread">
          <li v-for="one in report.unread.first" :key="`${one.file} ${one.line}`">
            {{ report.files.length > 1 ? `${one.file}, line` : 'Line' }} {{ count(one.line) }}: {{ one.why }}
            <code>{{ one.text }}</code>
          </li>
          <li v-if="report.unread.count > report.unread.first.length" class="quiet">
            {{ count(report.unread.count - report.unread.first.length) }} more
          </li>
        </ul>
      </template>
    </section>
  </div>
</template>

<style scoped>
.logs {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: grid;
  gap: 2px;
  justify-items: start;
}
h1,
h3,
ul {
  margin: 0;
}
h2 {
  margin: 14px 0 4px;
}
h3 {
  margin: 14px 0 4px;
}
.progress {
  display: flex;
  gap: 12px;
  align-items: center;
  max-width: 640px;
}
.files,
.unread {
  padding: 0;
  list-style: none;
}
.unread {
  display: grid;
  gap: 4px;
}
code,
.text,
.files li {
  overflow-wrap: anywhere;
}
.does {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
  margin-top: 12px;
}
.domain {
  flex: 0 1 280px;
}
.lists {
  display: flex;
  flex-wrap: wrap;
  gap: 0 40px;
}
.lists > div {
  flex: 1 1 280px;
  max-width: 560px;
}
.number {
  text-align: end;
}
.bad {
  color: var(--copper);
}
</style>
