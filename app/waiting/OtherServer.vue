<script setup lang="ts">
import { computed, ref } from 'vue';
import { writeCatalogue } from '#core/formats';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { count } from '../theme/formats.ts';
import { records } from './words.ts';

/** Another server answers than the one this browser is filled from: what is to become of what is here. */
const catalogue = useCatalogue();
const journal = useJournal();
const working = ref(false);
const unsent = computed(() => catalogue.waiting.size);
const here = computed(() => [...catalogue.rows.values()].filter(({ value }) => value !== null).length);

const exportAll = async () => {
  saveFile(
    'fernhop-with-secrets.json',
    'application/json',
    writeCatalogue(catalogue.everyRecord(), Date.now(), 'included'),
  );
  saveFile('fernhop-journal.ndjson', 'application/x-ndjson', await journalWorker.allLines());
};
const answer = async (whose: 'bring mine' | 'take theirs') => {
  working.value = true;
  try {
    await catalogue.answerOther(whose);
  } finally {
    working.value = false;
  }
};
</script>

<template>
  <section class="other" role="alert" aria-labelledby="h-other">
    <h2 id="h-other">Another server answers here</h2>
    <p>
      This browser holds {{ records(here) }} and {{ count(journal.progress.held) }} lines of the journal of
      the server before, {{ unsent === 0 ? 'all of it sent' : `${records(unsent)} of them never sent` }}.
      Nothing is sent or dropped until you say what is to become of it.
    </p>
    <v-btn class="quiet-button" @click="exportAll">Export everything that is here</v-btn>
    <dl>
      <dt>
        <v-btn color="primary" :loading="working" @click="answer('bring mine')"
          >Bring it to this server</v-btn
        >
      </dt>
      <dd>
        When its data folder was emptied, or you moved. What is here is sent; where it has a record of its own
        that differs, you choose.
      </dd>
      <dt><v-btn class="quiet-button" :loading="working" @click="answer('take theirs')">Let it go</v-btn></dt>
      <dd>
        When this is the server you want to see. What was never sent is lost, unless you export it first.
      </dd>
    </dl>
  </section>
</template>

<style scoped>
.other {
  margin: 0 0 18px;
  padding: 12px 14px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
h2 {
  margin: 0 0 4px;
}
p {
  margin: 0 0 10px;
  max-width: 70ch;
}
dl {
  margin: 14px 0 0;
  display: grid;
  grid-template-columns: max-content minmax(0, 60ch);
  gap: 10px 14px;
  align-items: center;
}
dd {
  margin: 0;
}
@media (max-width: 760px) {
  dl {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
