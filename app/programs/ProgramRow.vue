<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Program, Terms } from '#core/catalogue';
import { placeTitle } from '#core/link-parts';
import { checkRecord, firstProblem, hostIn, noRules, programStates } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import type { Row } from '../sync/index.ts';
import TermsFields from './TermsFields.vue';

/** One program of the register: its state, its shop, what its merchant asks for, what its links get. */
const props = defineProps<{ program: Program }>();
const emit = defineEmits<{ editing: [open: boolean] }>();
const catalogue = useCatalogue();
const draft = ref<Program & { rules: NonNullable<Program['rules']> }>();
watch(draft, () => emit('editing', draft.value !== undefined), { flush: 'sync' });
const isRemoved = computed(() => !catalogue.programs.some(({ id }) => id === props.program.id));
const labels = ref<Record<string, string>>({});
const hosts = ref('');
const shortHosts = ref('');
const strip = ref('');
const problem = ref('');
const terms = ref<Terms[] | undefined>();
const currency = () => catalogue.network(props.program.network)?.currency ?? 'EUR';
const setTerms = (list: Terms[] | undefined, wrong: string) => {
  terms.value = list;
  problem.value = wrong;
};
const slots = () => catalogue.network(props.program.network)?.slots ?? [];

/** The program as it was when the form was opened. */
let began: Row | undefined;
const edit = () => {
  began = catalogue.rowNow(props.program.id);
  const copy: Program = JSON.parse(JSON.stringify(props.program));
  terms.value = copy.terms ?? [];
  problem.value = '';
  draft.value = { ...copy, rules: copy.rules ?? { ...noRules } };
  labels.value = { ...copy.labels };
  hosts.value = copy.hosts.join(', ');
  shortHosts.value = (copy.rules?.shortHosts ?? []).join(', ');
  strip.value = (copy.strip ?? []).join(', ');
};
const words = (text: string) => text.split(/[\s,]+/).filter(Boolean);
const save = async () => {
  if (!draft.value) return;
  const list = terms.value;
  // What was typed last cannot be read; it says so below.
  if (!list) return;
  const { labels: _1, strip: _2, terms: _3, tag, apply, rules, ...rest } = draft.value;
  const { shortHosts: _4, disclosure = '', ...ruled } = rules;
  const ownHosts = words(shortHosts.value).map(hostIn);
  const given = Object.fromEntries(Object.entries(labels.value).filter(([, value]) => value.trim() !== ''));
  const checked = checkRecord('program', {
    ...rest,
    rules: {
      ...ruled,
      ...(ownHosts.length > 0 && { shortHosts: ownHosts }),
      ...(disclosure.trim() !== '' && { disclosure }),
    },
    hosts: words(hosts.value.toLowerCase()),
    ...(tag && { tag }),
    ...(apply && { apply }),
    ...(Object.keys(given).length > 0 && { labels: given }),
    ...(words(strip.value).length > 0 && { strip: words(strip.value) }),
    ...(list.length > 0 && { terms: list }),
  });
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  await catalogue.saveRecord('program', checked.value, began);
  draft.value = undefined;
};
</script>

<template>
  <li :id="program.id">
    <div class="head">
      <strong>{{ program.name }}</strong>
      <span class="tile" :class="{ bad: program.state === 'declined' }">{{ program.state }}</span>
      <span class="quiet mono">{{ program.code }}</span>
      <span class="quiet">{{ program.hosts.join(', ') }}</span>
      <a
        v-if="program.apply && program.state !== 'joined'"
        :href="program.apply"
        target="_blank"
        rel="noopener"
        >apply</a
      >
      <text-link v-if="!draft" :aria-label="`Edit ${program.name}`" @click="edit"> edit </text-link>
    </div>
    <p v-if="isRemoved" class="bad" role="alert">
      Somebody removed this program while you edit it. Save, and you are asked which stays.
    </p>
    <form v-if="draft" @submit.prevent="save">
      <v-text-field v-model="draft.name" label="Name" />
      <v-select v-model="draft.state" :items="[...programStates]" label="State" />
      <v-text-field v-model="draft.code" label="What the network’s program parameter holds" class="mono" />
      <v-text-field v-model="hosts" label="Hosts of the shop, with commas between" class="mono" />
      <v-text-field v-model="draft.apply" label="Address where one applies" class="mono" />
      <v-text-field v-model="draft.tag" label="Account tag its links get" class="mono" />
      <v-text-field
        v-for="slot in slots().filter((s) => s.fill === '')"
        :key="slot.name"
        v-model="labels[slot.name]"
        :label="`Label in ${placeTitle(slot.name)}`"
        class="mono"
      />
      <v-text-field
        v-model="strip"
        label="More parameters of the shop to take away from its pages"
        class="mono"
      />
      <h4 class="caps">What the merchant asks for</h4>
      <v-checkbox v-model="draft.rules.cloak" label="Links of ours may stand between" />
      <v-checkbox v-model="draft.rules.ownLinks" label="Only short links of its own" />
      <v-text-field
        v-if="draft.rules.ownLinks || shortHosts"
        v-model="shortHosts"
        label="Hosts of its own short links, with commas between"
        class="mono"
      />
      <v-text-field v-model="draft.rules.name" label="Words to be read in the linked text" />
      <v-text-field v-model="draft.rules.disclosure" label="A sentence that has to stand with its links" />
      <v-checkbox v-model="draft.rules.mail" label="May stand in mail" />
      <v-checkbox v-model="draft.rules.social" label="May stand on social pages" />
      <h4 class="caps">What it pays</h4>
      <p class="quiet">Prices a postback that brings no amount, and marks what was paid below it.</p>
      <terms-fields :terms="program.terms ?? []" :currency="currency()" @change="setTerms" />
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <div class="buttons">
        <v-btn type="submit" color="primary">Save</v-btn>
        <v-btn class="quiet-button" @click="draft = undefined">Cancel</v-btn>
      </div>
    </form>
  </li>
</template>

<style scoped>
li {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 12px;
}
.head .text-link {
  margin-left: auto;
}
a {
  color: var(--fern);
}
form {
  display: grid;
  gap: 8px;
  max-width: 620px;
  padding: 10px 0;
}
h4 {
  margin: 6px 0 0;
}
.buttons {
  display: flex;
  gap: 8px;
}
.bad {
  color: var(--copper);
}
</style>
