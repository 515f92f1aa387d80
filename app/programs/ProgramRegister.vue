<script setup lang="ts">
import PickFiles from '../theme/PickFiles.vue';
import { ref } from 'vue';
import type { Network, Program } from '#core/catalogue';
import { checkRecord, programStates, element } from '#core/catalogue';
import { decodeText, readTable } from '#core/formats';
import { useCatalogue } from '../data/catalogue.ts';
import { useKeptWhileEdited } from '../data/keptWhileEdited.ts';
import { newId } from '../data/random.ts';
import { useNotice } from '../shell/notice.ts';
import ProgramRow from './ProgramRow.vue';

/** The programs of a network, by state; filled by hand, by pasted links, or from a CSV. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const notice = useNotice();
const state = ref<Program['state'] | ''>('');
const stateItems = [
  { value: '' as const, title: 'State: any' },
  ...programStates.map((value) => ({ value, title: value })),
];
const name = ref('');
const host = ref('');
const { shown: programs, setEditing } = useKeptWhileEdited(() =>
  catalogue.programs.filter(
    (program) =>
      program.network === props.network.id && (state.value === '' || program.state === state.value),
  ),
);
const make = (given: Partial<Program>): Program => ({
  id: newId('prg'),
  network: props.network.id,
  name: '',
  code: '',
  hosts: [],
  state: 'not joined',
  ...given,
});
const add = async () => {
  const hosts = host.value
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean);
  const checked = checkRecord('program', make({ name: name.value, hosts, state: 'joined' }));
  if (!checked.ok) return;
  await catalogue.saveRecord('program', checked.value);
  name.value = '';
  host.value = '';
};
/** Columns by the words of a header: name, code, hosts, state, and where one applies. */
const columns = {
  name: /^(?:name|program(?:me)?|merchant|advertiser|shop)$/i,
  code: /^(?:code|id|(?:program(?:me)?|merchant|offer|advertiser)[ _-]?id)$/i,
  hosts: /^(?:hosts?|domains?|url|website|site|shop[ _-]?url)$/i,
  state: /^(?:state|status)$/i,
  apply: /^(?:apply|apply[ _-]?url|details)$/i,
};
const stateOf = (text: string): Program['state'] =>
  programStates.find((one) => one === text.trim().toLowerCase()) ??
  (/^(?:active|approved|accepted|yes)$/i.test(text)
    ? 'joined'
    : /reject|declin|denied/i.test(text)
      ? 'declined'
      : /pend|applied|wait/i.test(text)
        ? 'pending'
        : 'not joined');
const hostsIn = (text: string) =>
  text
    .toLowerCase()
    .split(/[\s,;]+/)
    .map((part) =>
      part
        .replace(/^https?:\/\//, '')
        .replace(/\/.*$/, '')
        .replace(/^www\./, ''),
    )
    .filter(Boolean);

const bring = async (file: File | undefined) => {
  if (!file) return;
  const table = readTable(decodeText(new Uint8Array(await file.arrayBuffer())).text);
  const at = Object.fromEntries(
    Object.entries(columns).map(([field, form]) => [
      field,
      table.header.findIndex((title) => form.test(title)),
    ]),
  );
  if ((at['name'] ?? -1) < 0) {
    notice.say(`${file.name} has no column called name, program or merchant. Nothing was brought in.`);
    return;
  }
  const before = catalogue.programs.filter((program) => program.network === props.network.id);
  const bad: number[] = [];
  const list = table.rows.flatMap((row, i) => {
    const cell = (field: string) => (row[at[field] ?? -1] ?? '').trim();
    const known = before.find(
      (p) => (cell('code') !== '' && p.code === cell('code')) || p.name === cell('name'),
    );
    const checked = checkRecord('program', {
      ...JSON.parse(JSON.stringify(known ?? make({}))),
      name: cell('name'),
      ...(cell('code') !== '' && { code: cell('code') }),
      ...(cell('hosts') !== '' && { hosts: hostsIn(cell('hosts')) }),
      ...(cell('state') !== '' && { state: stateOf(cell('state')) }),
      ...(cell('apply') !== '' && { apply: cell('apply') }),
    });
    if (!checked.ok) bad.push(element(table.lines[i]));
    return checked.ok ? [{ kind: 'program' as const, value: checked.value }] : [];
  });
  const words = `${list.length} programs are brought in.${bad.length > 0 ? ` Lines ${bad.slice(0, 5).join(', ')} could not be read.` : ''}`;
  if (list.length > 0) notice.did(words, await catalogue.save(...list));
  else notice.say(words);
};
</script>

<template>
  <div class="bar">
    <v-select v-model="state" single-line class="small-field" :items="stateItems" aria-label="State" />
    <pick-files in-line accept=".csv,.tsv,text/*" @files="bring($event[0])">From a CSV</pick-files>
  </div>
  <p v-if="programs.length === 0" class="quiet">
    None here. Paste one of its tracking links, or name one below.
  </p>
  <ul>
    <program-row
      v-for="program in programs"
      :key="program.id"
      :program="program"
      @editing="setEditing(program.id, $event)"
    />
  </ul>
  <form class="add" @submit.prevent="add">
    <v-text-field v-model="name" label="Name of a program" />
    <v-text-field v-model="host" label="Host of its shop" class="mono" />
    <v-btn type="submit" class="quiet-button" size="default" :disabled="name.trim() === ''">Add</v-btn>
  </form>
</template>

<style scoped>
.bar {
  display: flex;
  gap: 14px;
  align-items: center;
}
ul {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
.add {
  display: flex;
  gap: 8px;
  max-width: 560px;
}
</style>
