<script setup lang="ts">
import pLimit from 'p-limit';
import { computed, shallowRef, watch } from 'vue';
import type { Network } from '#core/catalogue';
import { useCatalogue } from '../../data/catalogue.ts';
import { journalWorker, useJournal } from '../../data/journal.ts';
import { useNotice } from '../../shell/notice.ts';
import { dayMonth } from '../../theme/formats.ts';
import { postbackAddress } from './address.ts';

/** The address to set at a network, and for what it was set there. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const address = computed(() => postbackAddress(props.network, catalogue.domains[0]));
/** Without the click's placeholder it is copied only where a person says so. */
const carriesClick = computed(() => (props.network.postback.placeholders.click ?? '') !== '');
const copy = () => notice.copy(address.value, 'The postback address is copied.');
const programs = computed(() =>
  catalogue.programs.filter(({ network, state }) => network === props.network.id && state === 'joined'),
);
const setFor = computed(() => new Set(props.network.postback.setFor ?? []));
/** One after the other, so that of two quick ticks the second does not undo the first. */
const oneByOne = pLimit(1);
const toggle = (place: string, on: boolean) =>
  oneByOne(async () => {
    const now = catalogue.network(props.network.id) ?? props.network;
    const next = new Set(now.postback.setFor);
    if (on) next.add(place);
    else next.delete(place);
    await catalogue.saveRecord('network', { ...now, postback: { ...now.postback, setFor: [...next] } });
  });
/** What came twice longer ago than this is over. */
const freshDays = 30;
const twice = shallowRef<ReadonlyMap<string, { readonly count: number; readonly last: number }>>(new Map());
watch(
  [() => props.network.id, () => journal.news],
  async ([id]) => {
    const found = await journalWorker.firedTwice(id);
    if (id === props.network.id) twice.value = found;
  },
  { immediate: true },
);
const nameOf = (program: string) => catalogue.program(program)?.name ?? 'a program';
/** Programs whose conversions come twice: both are set, or the journal shows that they are. */
const both = computed(() => {
  const since = Date.now() - freshDays * 86_400_000;
  const offers = setFor.value.has('') ? [...setFor.value].filter((place) => place !== '') : [];
  const came = [...twice.value].flatMap(([program, { last }]) => (last >= since ? [program] : []));
  return [...new Set([...offers, ...came])].map((program) => ({
    name: nameOf(program),
    ...(twice.value.get(program) ?? { count: 0, last: 0 }),
  }));
});
const over = computed(() =>
  [...twice.value].flatMap(([program, found]) => {
    const name = nameOf(program);
    return both.value.some((one) => one.name === name) ? [] : [{ name, ...found }];
  }),
);
</script>

<template>
  <p>Set this at the network. It then reports every conversion here.</p>
  <div class="address">
    <code>{{ address }}</code>
    <v-btn v-if="carriesClick" color="primary" @click="copy">Copy</v-btn>
    <v-btn v-else class="quiet-button" @click="copy">Copy it without the click ID</v-btn>
  </div>
  <p v-if="!carriesClick" class="warning" role="note">
    <strong
      >It has no placeholder for the click ID, so no sale sent there can ever be matched to its click.</strong
    >
    Say below what {{ network.name }} calls the click ID first; its help page lists the placeholders.
  </p>
  <fieldset>
    <legend class="quiet">Set there for</legend>
    <v-checkbox
      :model-value="setFor.has('')"
      label="the whole account"
      @update:model-value="toggle('', $event === true)"
    />
    <v-checkbox
      v-for="program in programs"
      :key="program.id"
      :model-value="setFor.has(program.id)"
      :label="program.name"
      @update:model-value="toggle(program.id, $event === true)"
    />
  </fieldset>
  <div v-if="both.length > 0" class="warning" role="note">
    <strong
      >Both fire for
      <template v-for="(one, i) in both" :key="one.name"
        >{{ i > 0 ? ', ' : '' }}{{ one.name
        }}<template v-if="one.count > 0">
          ({{ one.count }} came twice, the last on {{ dayMonth(one.last) }})</template
        ></template
      >: the same conversion arrives twice.</strong
    >
    <ol>
      <li>Keep the one of the whole account. See that a conversion came by it since you set it.</li>
      <li>Only then take away the one of the program at the network. Between the two nothing is missed.</li>
      <li>Take its tick away here.</li>
    </ol>
  </div>
  <p v-for="one in over" :key="one.name" class="quiet over">
    Until {{ dayMonth(one.last) }} both fired for {{ one.name }}: {{ one.count }} came twice.
  </p>
</template>

<style scoped>
p {
  margin: 0 0 6px;
}
.address {
  display: flex;
  gap: 10px;
  flex-wrap: wrap;
  align-items: center;
  margin-bottom: 6px;
}
.address code {
  flex: 1 1 240px;
  min-width: 0;
  padding: 8px 10px;
  overflow-wrap: anywhere;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0;
  padding: 0;
  border: 0;
}
legend {
  float: left;
  margin-right: 14px;
  padding: 0;
}
label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
input {
  margin: 0;
  accent-color: var(--fern);
}
.warning {
  margin-top: 8px;
  padding: 8px 12px;
  color: var(--copper);
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
p.over {
  margin: 6px 0 0;
}
ol {
  margin: 4px 0 0;
  padding-left: 20px;
}
</style>
