<script setup lang="ts">
import { computed, ref } from 'vue';
import type { SourceRecord } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import type { LikelySlip, SourceFigures } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { figureDays, journalWorker, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';
import { useNotice } from '../shell/notice.ts';
import { count, dayMonth, sums } from '../theme/formats.ts';
import Hint from '../theme/Hint.vue';
import { useNewest } from './newest.ts';
import PassedFields from './PassedFields.vue';
import PlaceTabs from './PlaceTabs.vue';

/** Where visitors come from, by what stood after `~`: what is known of each name, and slips of names that count as others. */
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const { since } = useOwnDays();
const { found, loaded } = useNewest<{
  sources: readonly SourceFigures[];
  slips: readonly LikelySlip[];
}>(
  () => [journal.news, catalogue.sources],
  () => journalWorker.sources(since.value),
  { sources: [], slips: [] },
);
const asked = ref('');
const recordOf = (source: string): SourceRecord =>
  catalogue.sources.find((record) => record.source === source) ?? {
    id: sameId('src', source),
    source,
    title: '',
    channel: '',
    note: '',
  };
const sources = computed(() =>
  found.value.sources
    .filter(({ source }) => source !== '')
    .map((figures) => ({ ...figures, record: recordOf(figures.source) }))
    .filter(({ source, record }) =>
      `${source} ${record.title} ${record.channel}`.toLowerCase().includes(asked.value.trim().toLowerCase()),
    ),
);
const unnamed = computed(() => found.value.sources.find(({ source }) => source === '')?.visits ?? 0);
const channels = computed(() =>
  [
    ...new Set([
      ...catalogue.sources.map(({ channel }) => channel),
      'mail',
      'page',
      'post',
      'video',
      'print',
      'bought',
    ]),
  ]
    .filter((channel) => channel !== '')
    .sort(),
);
const passedWords = ({ cost, ...others }: NonNullable<SourceRecord['passes']>): string =>
  new Intl.ListFormat('en-GB').format([...Object.keys(others), ...(cost ? ['cost'] : [])]);
const visitWords = (n: number) => `${count(n)} ${n === 1 ? 'visit' : 'visits'}`;
const merge = async ({ name, of }: LikelySlip) => {
  const step = await catalogue.saveRecord('source', { ...recordOf(name), as: of });
  notice.did(`${name} counts as ${of}, for the past as well.`, step);
};
const keepApart = async ({ name }: LikelySlip) => {
  const step = await catalogue.saveRecord('source', recordOf(name));
  notice.did(`${name} is a source of its own.`, step);
};
const part = async (name: string) => {
  const { as: _, ...rest } = recordOf(name);
  const step = await catalogue.saveRecord('source', rest);
  notice.did(`${name} is a source of its own again, for the past as well.`, step);
};
const edited = ref('');
const draft = ref<SourceRecord>(recordOf(''));
let began = catalogue.rowNow('');
const into = ref('');
const edit = (record: SourceRecord) => {
  edited.value = edited.value === record.source ? '' : record.source;
  draft.value = { ...record };
  began = catalogue.rowNow(record.id);
  into.value = '';
};
const others = computed(() =>
  found.value.sources.map(({ source }) => source).filter((name) => name !== '' && name !== edited.value),
);
const save = async () => {
  const next = { ...draft.value, ...(into.value !== '' && { as: into.value }) };
  const step = await catalogue.saveRecord('source', next, began);
  notice.did(
    into.value === '' ? `${next.source} is described.` : `${next.source} counts as ${into.value}.`,
    step,
  );
  edited.value = '';
};
</script>

<template>
  <div class="view">
    <place-tabs />
    <div class="sheet">
      <header>
        <h1>Sources</h1>
        <p class="quiet">Visits of the last {{ figureDays }} days, by what stood after ~ or ?from=</p>
      </header>
      <ul v-if="found.slips.length > 0" class="slips" aria-label="Likely slips">
        <li v-for="slip in found.slips" :key="slip.name">
          <span
            ><b class="mono">{{ slip.name }}</b> looks like <b class="mono">{{ slip.of }}</b>:
            {{ visitWords(slip.visits) }} against {{ count(slip.ofVisits) }}</span
          >
          <span class="line">
            <v-btn class="quiet-button" @click="merge(slip)">Count it as {{ slip.of }}</v-btn>
            <text-link @click="keepApart(slip)">It is another</text-link>
          </span>
        </li>
      </ul>
      <v-text-field v-model="asked" class="search" label="Find a source" type="search" hide-details />
      <p v-if="journal.arriving" class="quiet" role="status">
        Visits are still arriving; these figures rise.
      </p>
      <p v-else-if="loaded && found.sources.length === 0" class="quiet">
        Nobody came yet. A source needs no registering: write ~ and a name behind a short link, such as
        ~newsletter.
      </p>
      <div v-if="found.sources.length > 0" class="wide">
        <small-table aria-label="Sources">
          <thead>
            <tr>
              <th scope="col">Source</th>
              <th scope="col" class="more">Channel</th>
              <th scope="col" class="number">Visits</th>
              <th scope="col" class="number more">Links</th>
              <th scope="col" class="number">Conversions</th>
              <th scope="col" class="number">Commission</th>
              <th scope="col" class="more">Newest</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="one in sources" :key="one.source">
              <tr>
                <td>
                  <text-link :aria-expanded="edited === one.source" class="mono" @click="edit(one.record)">{{
                    one.source
                  }}</text-link>
                  <div v-if="one.record.title !== ''" class="quiet">{{ one.record.title }}</div>
                  <div v-if="one.record.passes" class="quiet">
                    passes {{ passedWords(one.record.passes) }} along
                  </div>
                  <div v-for="slip in one.slips" :key="slip.name" class="quiet">
                    with <span class="mono">{{ slip.name }}</span> ({{ count(slip.visits) }})
                    <text-link @click="part(slip.name)">part</text-link>
                  </div>
                </td>
                <td class="more">{{ one.record.channel }}</td>
                <td class="number">
                  <text-link :to="{ name: 'traffic', query: { by: 'link', with: `source:${one.source}` } }"
                    >{{ count(one.visits) }}<hint>Who they were, in Traffic</hint></text-link
                  >
                </td>
                <td class="number more">{{ count(one.links) }}</td>
                <td class="number">{{ count(one.conversions) }}</td>
                <td class="number">{{ sums(one.commission) }}</td>
                <td class="more">{{ one.newest === 0 ? '' : dayMonth(one.newest) }}</td>
              </tr>
              <tr v-if="edited === one.source">
                <td colspan="7">
                  <form @submit.prevent="save">
                    <v-text-field
                      v-model="draft.title"
                      label="What it is"
                      placeholder="The Thursday newsletter"
                    />
                    <v-combobox
                      :model-value="draft.channel"
                      :items="channels"
                      label="Channel"
                      @update:model-value="draft.channel = ($event ?? '').trim().slice(0, 60)"
                    />
                    <v-autocomplete v-model="into" :items="others" label="Count it as another" clearable />
                    <v-textarea v-model="draft.note" label="Note" rows="1" auto-grow class="note" />
                    <passed-fields v-model="draft.passes" :source="one.source" />
                    <div class="line">
                      <v-btn type="submit" color="primary">Save</v-btn>
                      <v-btn class="quiet-button" @click="edited = ''">Cancel</v-btn>
                    </div>
                  </form>
                </td>
              </tr>
            </template>
          </tbody>
        </small-table>
      </div>
      <p v-if="unnamed > 0" class="quiet">{{ visitWords(unnamed) }} came without a source.</p>
    </div>
  </div>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.slips {
  display: grid;
  gap: 6px;
  margin: 0 0 14px;
  padding: 12px 14px;
  list-style: none;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.slips li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  justify-content: space-between;
  align-items: center;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 12px;
  align-items: center;
}
.search {
  max-width: 360px;
  margin-bottom: 12px;
}
form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(200px, 1fr));
  gap: 10px;
  padding: 10px 0;
}
</style>
