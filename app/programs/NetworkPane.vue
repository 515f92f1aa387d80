<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { Network, PostbackField } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNotice } from '../frame/notice.ts';
import LeafMark from '../look/LeafMark.vue';
import { moment, money } from '../look/formats.ts';
import { postbackAddress } from './postbackAddress.ts';

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

const address = computed(() => postbackAddress(props.network, catalogue.domains[0]));
const programs = computed(() => catalogue.programs.filter((program) => program.network === props.network.id));
const roleWords = {
  account: 'account',
  program: 'program',
  creative: 'creative',
  slot: 'sub-ID slot',
  page: 'page inside the link',
  other: 'other',
};
const fillWords = (fill: string) =>
  fill === '{click}'
    ? 'the click ID, fresh for every click'
    : fill === '{source}'
      ? 'the name of the source'
      : 'nothing by itself';

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
        <li v-for="{ record, read, match } in postbacks" :key="record.seq">
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
          <div class="match">
            <leaf-mark :tone="match.level === 'none' ? 'copper' : 'fern'" />{{ match.because }}
          </div>
          <div v-for="problem in read.problems" :key="problem.path" class="bad">
            {{ problem.path }}: {{ problem.message }}
          </div>
        </li>
      </ul>
    </section>

    <section>
      <h3 class="caps">Link grammar, version {{ network.grammar.version }}</h3>
      <p>
        <code>{{ network.grammar.hosts.join(', ') || 'No host yet' }}</code>
        <code>{{ network.grammar.path }}</code>
      </p>
      <table v-if="network.grammar.parameters.length > 0">
        <thead>
          <tr>
            <th scope="col">Parameter</th>
            <th scope="col">Is the</th>
            <th scope="col">Filled with</th>
            <th scope="col" class="number">Keeps</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="parameter in network.grammar.parameters" :key="parameter.name">
            <td class="mono">{{ parameter.name }}</td>
            <td>{{ roleWords[parameter.role] }}</td>
            <template
              v-for="slot in [network.slots.find((s) => s.name === parameter.name)]"
              :key="slot?.name ?? ''"
            >
              <td>{{ slot ? fillWords(slot.fill) : '' }}</td>
              <td class="number">{{ slot ? `${slot.length} characters` : '' }}</td>
            </template>
          </tr>
        </tbody>
      </table>
    </section>

    <section>
      <h3 class="caps">Programs</h3>
      <p v-if="programs.length === 0" class="quiet">None yet. Paste one of its tracking links.</p>
      <ul>
        <li v-for="program in programs" :key="program.id">
          {{ program.name }} <span class="quiet">{{ program.code }}, {{ program.state }}</span>
        </li>
      </ul>
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
table {
  width: 100%;
  max-width: 640px;
}
td,
th {
  padding: 5px 10px 5px 0;
  border-bottom: 1px solid var(--line);
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
