<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { Network, PostbackField } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNotice } from '../frame/notice.ts';
import LeafMark from '../look/LeafMark.vue';
import { moment, money } from '../look/formats.ts';
import AccountTags from './AccountTags.vue';
import GrammarTable from './GrammarTable.vue';
import { postbackAddress } from './postbackAddress.ts';
import ProgramRegister from './ProgramRegister.vue';
import SlotsTable from './SlotsTable.vue';

const emptyPlaceholders = (): Record<PostbackField, string> => ({
  click: '',
  event: '',
  status: '',
  amount: '',
  currency: '',
  txn: '',
  at: '',
});
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const placeholders = ref<Record<PostbackField, string>>(emptyPlaceholders());
const editing = ref(false);
const most = 12;
const postbacks = shallowRef<Awaited<ReturnType<typeof journalWorker.postbacksOf>>>([]);

const few = 3;
const all = ref(false);
const shown = computed(() => (all.value ? postbacks.value : postbacks.value.slice(0, few)));
const address = computed(() => postbackAddress(props.network, catalogue.domains[0]));
watch(
  [() => props.network.id, () => journal.news],
  async ([id]) => {
    const found = await journalWorker.postbacksOf(id, most);
    if (id === props.network.id) postbacks.value = found;
  },
  { immediate: true },
);
const edit = () => {
  const known = props.network.postback.placeholders;
  for (const field of postbackFields) placeholders.value[field] = known[field] ?? '';
  editing.value = true;
};
const save = async () => {
  const given = Object.fromEntries(
    Object.entries(placeholders.value).filter(([, text]) => text.trim() !== ''),
  );
  await catalogue.saveRecord('network', {
    ...props.network,
    postback: { ...props.network.postback, placeholders: given },
  });
  editing.value = false;
};
</script>

<template>
  <div class="pane">
    <header>
      <h2>{{ network.name }}</h2>
      <span class="quiet">{{ network.currency }}, days in {{ network.zone }}</span>
    </header>

    <section>
      <h3 class="caps">Postback address</h3>
      <p>Set this at the network, for the whole account. It then reports every conversion here.</p>
      <div class="address">
        <code>{{ address }}</code>
        <v-btn color="primary" @click="notice.copy(address, 'The postback address is copied.')">Copy</v-btn>
      </div>
      <form v-if="editing" @submit.prevent="save">
        <p class="quiet">What this network writes for each value. Leave empty what it does not offer.</p>
        <v-text-field
          v-for="field in postbackFields"
          :key="field"
          v-model="placeholders[field]"
          :label="field"
          class="mono"
        />
        <div class="buttons">
          <v-btn type="submit" color="primary">Save</v-btn>
          <v-btn class="quiet-button" @click="editing = false">Cancel</v-btn>
        </div>
      </form>
      <button v-else class="text-link" type="button" @click="edit">Change its placeholders</button>
    </section>

    <section>
      <h3 class="caps">Last postbacks</h3>
      <p v-if="postbacks.length === 0" class="quiet">None has come yet.</p>
      <ul v-else class="postbacks">
        <li v-for="{ record, read, match } in shown" :key="record.seq">
          <div class="head">
            <span
              >{{ moment(record.at) }} · {{ read.event.event }} {{ read.event.txn }} ·
              {{ read.event.status }}</span
            >
            <strong>{{
              read.event.amount === null ? 'no amount' : money(read.event.amount, read.event.currency)
            }}</strong>
          </div>
          <code class="quiet raw"
            >{{ record.via }} ?{{ record.query }}{{ record.body ? ` ${record.body}` : '' }}</code
          >
          <div class="match"><leaf-mark :tone="match.row < 0 ? 'copper' : 'fern'" />{{ match.because }}</div>
          <div v-for="problem in read.problems" :key="problem.path" class="bad">
            {{ problem.path }}: {{ problem.message }}
          </div>
        </li>
      </ul>
      <button v-if="!all && postbacks.length > few" class="text-link" type="button" @click="all = true">
        Show the last {{ postbacks.length }}
      </button>
    </section>

    <section>
      <h3 class="caps">Programs</h3>
      <program-register :network="network" />
    </section>
    <section>
      <h3 class="caps">Sub-ID slots</h3>
      <slots-table :network="network" />
    </section>
    <section>
      <h3 class="caps">Account tags</h3>
      <account-tags :network="network" />
    </section>
    <section>
      <h3 class="caps">Link grammar, version {{ network.grammar.version }}</h3>
      <grammar-table :network="network" />
    </section>
  </div>
</template>

<style scoped>
.pane {
  flex: 1;
  overflow: auto;
  padding: 16px 22px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
section {
  margin-top: 18px;
}
h3 {
  margin: 0 0 4px;
}
p {
  margin: 0 0 6px;
}
.address {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 6px;
}
.address code {
  flex: 1;
  padding: 8px 10px;
  overflow-wrap: anywhere;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
form {
  display: grid;
  gap: 8px;
  max-width: 460px;
}
.buttons {
  display: flex;
  gap: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.postbacks li {
  padding: 8px 0;
  border-bottom: 1px solid var(--line);
}
.head {
  display: flex;
  justify-content: space-between;
}
.raw {
  display: block;
  font-size: 12px;
  overflow-wrap: anywhere;
}
.match {
  display: flex;
  align-items: center;
  gap: 7px;
  font-size: 13px;
}
.bad {
  color: var(--copper);
  font-size: 13px;
}
</style>
