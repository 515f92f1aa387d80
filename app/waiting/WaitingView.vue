<script setup lang="ts">
import { computed } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import type { Row, Waiting } from '../sync/index.ts';
import { heldBackBy } from '../sync/index.ts';
import { moment } from '../theme/formats.ts';
import LostRecords from './LostRecords.vue';
import OtherServer from './OtherServer.vue';
import Versions from './Versions.vue';
import { recordAddress, recordName, records, whyNotSent } from './words.ts';

/** Everything that was made here and is not with the server, each with its cause and what to do. */
const catalogue = useCatalogue();
const mostShown = 50;

interface Line {
  readonly waiting: Waiting;
  readonly name: string;
  readonly to: string;
  readonly why: string;
}
const lineOf = (waiting: Waiting): Line => {
  const { record, change, from, theirs } = waiting;
  const row: Row = { record, kind: change.kind, value: change.value ?? from ?? null };
  const tag = catalogue.unregisteredTag(record);
  const base = heldBackBy(waiting, catalogue.rows, catalogue.waiting);
  const baseRow = base === undefined ? undefined : catalogue.rows.get(base);
  return {
    waiting,
    name: recordName(change.kind, change.value, from, theirs?.value),
    to: recordAddress(row),
    why: tag
      ? `Its account tag ${tag.tag} is not registered, so nobody might be credited. Register it, or use another.`
      : baseRow
        ? `It rests on ${recordName(baseRow.kind, baseRow.value)}, which was refused: mend that first.`
        : '',
  };
};
const lines = computed(() =>
  [...catalogue.waiting.values()].sort((a, b) => b.change.at - a.change.at).map(lineOf),
);
const conflicts = computed(() => lines.value.filter(({ waiting }) => waiting.theirs));
const refused = computed(() => lines.value.filter(({ waiting }) => waiting.refusal && !waiting.theirs));
const heldBack = computed(() =>
  lines.value.filter(({ waiting, why }) => why !== '' && !waiting.refusal && !waiting.theirs),
);
const onTheWay = computed(() =>
  lines.value.filter(({ waiting, why }) => why === '' && !waiting.refusal && !waiting.theirs),
);
const notSent = computed(() => whyNotSent(catalogue.server, catalogue.serverProblem));
const isQuiet = computed(
  () => lines.value.length === 0 && !catalogue.otherServer && catalogue.findings.length === 0,
);
const findings = computed(() =>
  catalogue.findings.map(({ kind, taken, offered, asked }) => {
    const parts = [
      ...(offered > 0 ? [`${records(offered)} it lost ${offered === 1 ? 'is' : 'are'} sent again`] : []),
      ...(taken > 0 ? [`${records(taken)} newer there ${taken === 1 ? 'was' : 'were'} taken`] : []),
      ...(asked > 0 ? [`${records(asked)} differ and wait for your choice`] : []),
    ].join(', ');
    return kind === 'set back'
      ? `The server was set back to an older state: ${parts}.`
      : `What this browser held differed from the server: ${parts}.`;
  }),
);
</script>

<template>
  <div class="waiting">
    <h1>Not with the server yet</h1>
    <p v-if="notSent !== '' && !catalogue.otherServer" class="bad" role="status">{{ notSent }}</p>
    <other-server v-if="catalogue.otherServer" />
    <p v-if="isQuiet && notSent === ''" class="quiet">
      Nothing waits: all that was made here is with the server.
    </p>
    <p v-for="words in findings" :key="words">{{ words }}</p>
    <section v-if="conflicts.length > 0" aria-labelledby="h-conflicts">
      <h2 id="h-conflicts">To choose</h2>
      <article v-for="{ waiting, name, to } in conflicts" :key="waiting.record">
        <h3>
          <text-link :to="to">{{ name }}</text-link>
        </h3>
        <versions :waiting="waiting" />
      </article>
    </section>
    <section v-if="refused.length > 0" aria-labelledby="h-refused">
      <h2 id="h-refused">Refused</h2>
      <article v-for="{ waiting, name, to } in refused.slice(0, mostShown)" :key="waiting.record">
        <h3>
          <text-link :to="to">{{ name }}</text-link>
        </h3>
        <p class="bad">{{ waiting.refusal?.message }}</p>
        <v-btn class="quiet-button" :to="to">Mend it</v-btn>
        <v-btn class="quiet-button" @click="catalogue.retry(waiting.record)">Send again</v-btn>
        <v-btn class="quiet-button" @click="catalogue.drop(waiting.record)">Let this edit go</v-btn>
      </article>
      <p v-if="refused.length > mostShown" class="quiet">
        and {{ records(refused.length - mostShown) }} more
      </p>
    </section>
    <section v-if="heldBack.length > 0" aria-labelledby="h-held-back">
      <h2 id="h-held-back">Kept here until something else is mended</h2>
      <article v-for="{ waiting, name, to, why } in heldBack.slice(0, mostShown)" :key="waiting.record">
        <h3>
          <text-link :to="to">{{ name }}</text-link>
        </h3>
        <p>{{ why }}</p>
      </article>
      <p v-if="heldBack.length > mostShown" class="quiet">
        and {{ records(heldBack.length - mostShown) }} more
      </p>
    </section>
    <section v-if="onTheWay.length > 0" aria-labelledby="h-way">
      <h2 id="h-way">{{ notSent === '' ? 'On the way' : 'Waiting to be sent' }}</h2>
      <ul>
        <li v-for="{ waiting, name, to } in onTheWay.slice(0, mostShown)" :key="waiting.record">
          <text-link :to="to">{{ name }}</text-link>
          <span class="quiet"> saved here {{ moment(waiting.change.at) }}</span>
        </li>
      </ul>
      <p v-if="onTheWay.length > mostShown" class="quiet">
        and {{ records(onTheWay.length - mostShown) }} more
      </p>
    </section>
    <lost-records />
  </div>
</template>

<style scoped>
.waiting {
  flex: 1;
  overflow: auto;
  padding: 18px 24px;
}
h1 {
  margin: 0 0 10px;
}
h2 {
  margin: 18px 0 6px;
}
h3 {
  margin: 0 0 4px;
  font-size: 15px;
}
article {
  max-width: 80ch;
  padding: 8px 0;
}
article > .v-btn {
  margin-right: 8px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  padding: 3px 0;
}
p {
  margin: 0 0 8px;
  max-width: 80ch;
  overflow-wrap: anywhere;
}
.bad {
  color: var(--copper);
}
</style>
