<script setup lang="ts">
import { computed, ref } from 'vue';
import { placeTitle, slotLoss } from '#core/link-parts';
import type { Network, Slot } from '#core/catalogue';
import { allowedCharacters, checkRecord, firstProblem } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import type { Row } from '../sync/index.ts';
import { useNotice } from '../shell/notice.ts';
import MoreText from '../theme/MoreText.vue';

/** The sub-ID slots of a network: what each takes, what it is filled with, who reads it. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const notice = useNotice();
const draft = ref<Slot[] | undefined>();
const problem = ref('');

const words: Readonly<Record<Slot['allowed'], string>> = {
  any: 'anything',
  word: 'letters, digits, - _',
  alphanumeric: 'letters, digits',
  digits: 'digits',
};
const fills = [
  { value: '{click}', title: 'the click ID' },
  { value: '{source}', title: 'the source' },
  { value: '', title: 'nothing by itself' },
] as const;
const characterItems = allowedCharacters.map((value) => ({ value, title: words[value] }));
const shown = computed(() => draft.value ?? props.network.slots);
const losses = computed(() =>
  shown.value.flatMap((slot) => {
    const loss = slot.fill === '' ? undefined : slotLoss(slot, slot.fill === '{source}' ? '' : slot.fill);
    return loss ? [{ name: slot.name, ...loss }] : [];
  }),
);
const noClick = computed(() => !shown.value.some((slot) => slot.fill === '{click}'));
/** The network as it was when the form was opened. */
let began: Row | undefined;
const edit = () => {
  began = catalogue.rowNow(props.network.id);
  draft.value = props.network.slots.map((slot) => ({ ...slot }));
};
const add = () =>
  draft.value?.push({
    name: '',
    length: 100,
    fill: noClick.value ? '{click}' : '',
    allowed: 'any',
    merchant: false,
  });
const save = async () => {
  if (!draft.value) return;
  const named = draft.value
    .filter((slot) => slot.name.trim() !== '')
    .map((slot) => ({ ...slot, name: slot.name.trim() }));
  const known = new Set(props.network.linkFormat.parameters.map((p) => p.name));
  const fresh = named
    .filter((slot) => !known.has(slot.name))
    .map(({ name }) => ({ name, role: 'slot' as const }));
  const { linkFormat, earlierLinkFormats = [] } = props.network;
  const checked = checkRecord('network', {
    ...JSON.parse(JSON.stringify(props.network)),
    slots: JSON.parse(JSON.stringify(named)),
    ...(fresh.length > 0 && {
      linkFormat: {
        ...linkFormat,
        version: linkFormat.version + 1,
        parameters: [...linkFormat.parameters, ...fresh],
      },
      earlierLinkFormats: [linkFormat, ...earlierLinkFormats].slice(0, 20),
    }),
  });
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  const step = await catalogue.saveRecord('network', checked.value, began);
  draft.value = undefined;
  notice.did(`The slots of ${props.network.name} are saved.`, step);
};
</script>

<template>
  <p v-if="network.slots.length === 0 && !draft" class="quiet">
    None yet. Without a slot for the click ID no conversion can be matched to its click.
  </p>
  <form v-else @submit.prevent="save">
    <small-table>
      <thead>
        <tr>
          <th scope="col">Slot</th>
          <th scope="col">Filled with</th>
          <th scope="col" class="number">Keeps</th>
          <th scope="col">Takes</th>
          <th scope="col">Read by</th>
        </tr>
      </thead>
      <tbody>
        <template v-if="draft">
          <tr v-for="(slot, i) in draft" :key="i">
            <td>
              <v-text-field
                v-model="slot.name"
                single-line
                class="small-field mono name"
                aria-label="Name of the slot"
              />
            </td>
            <td>
              <v-select
                v-model="slot.fill"
                single-line
                class="small-field"
                :items="fills"
                aria-label="Filled with"
              />
            </td>
            <td class="number">
              <v-number-input
                v-model="slot.length"
                class="small-field length"
                :min="1"
                :max="2000"
                aria-label="Most characters"
              />
            </td>
            <td>
              <v-select
                v-model="slot.allowed"
                single-line
                class="small-field"
                :items="characterItems"
                aria-label="Characters it takes"
              />
            </td>
            <td>
              <v-checkbox v-model="slot.merchant" label="the merchant too" />
            </td>
          </tr>
        </template>
        <tr v-for="slot in draft ? [] : network.slots" :key="slot.name">
          <td :class="{ mono: placeTitle(slot.name) === slot.name }">{{ placeTitle(slot.name) }}</td>
          <td>{{ fills.find((fill) => fill.value === slot.fill)?.title }}</td>
          <td class="number">{{ slot.length }} characters</td>
          <td>{{ words[slot.allowed] }}</td>
          <td>{{ slot.merchant ? 'the merchant too' : 'the network' }}</td>
        </tr>
      </tbody>
    </small-table>
    <p v-for="loss in losses" :key="loss.name" :class="loss.fatal ? 'bad' : 'quiet'" role="status">
      {{ placeTitle(loss.name) }}: {{ loss.message }}
    </p>
    <p v-if="noClick" class="bad">No slot carries the click ID, so nothing can ever be matched.</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div v-if="draft" class="buttons">
      <v-btn type="submit" color="primary">Save</v-btn>
      <v-btn class="quiet-button" @click="add">Add a slot</v-btn>
      <v-btn class="quiet-button" @click="draft = undefined">Cancel</v-btn>
    </div>
  </form>
  <text-link v-if="!draft" @click="edit">Change its slots</text-link>
  <more-text summary="Which names do slots have, and where does a network say?">
    <p>
      Networks take what you want to get back in a parameter of their own. Common names are <code>sid</code>,
      <code>subid</code>, <code>sub1</code> to <code>sub5</code>, <code>s1</code> to <code>s5</code>,
      <code>clickref</code>, <code>ref</code>, <code>tid</code>, <code>u1</code> and <code>epi</code>; some
      have one, some ten.
    </p>
    <p>
      Look where the network explains its tracking links: under links or tools there is often a field for a
      sub-ID. Type a word there and see under which name it stands in the link. The help pages about postbacks
      tell the placeholder with which it comes back, how long it may be, and whether the merchant sees it.
    </p>
  </more-text>
</template>

<style scoped>
.v-table {
  max-width: 720px;
}
td,
th {
  padding: 4px 10px 4px 0;
  border-bottom: 1px solid var(--line);
}
.name {
  width: 96px;
}
.length {
  width: 72px;
}
p {
  margin: 4px 0;
  max-width: 720px;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 6px;
}
.bad {
  color: var(--copper);
}
</style>
