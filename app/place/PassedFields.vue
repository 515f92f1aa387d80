<script setup lang="ts">
import { computed } from 'vue';
import type { SourceRecord } from '#core/catalogue';
import type { PassedParameter, ProposedRole } from '#core/queries';
import { passedRoles } from '#core/traffic';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { count } from '../theme/formats.ts';
import { useNewest } from './newest.ts';

type Passes = NonNullable<SourceRecord['passes']>;

/** In which parameters a source's seller passes along what it knows, beside what came in them. */
const props = defineProps<{ source: string }>();
const passes = defineModel<Passes | undefined>();
const catalogue = useCatalogue();
const journal = useJournal();
const { found, loaded } = useNewest<readonly PassedParameter[]>(
  () => [journal.news, props.source],
  () => journalWorker.passedAlong(props.source),
  [],
);
const roles: readonly { value: ProposedRole | ''; title: string }[] = [
  { value: '', title: 'not read' },
  { value: 'placement', title: 'placement' },
  { value: 'keyword', title: 'keyword' },
  { value: 'creative', title: 'creative' },
  { value: 'cost', title: 'cost of the visit' },
];
const currencies = Intl.supportedValuesOf('currency');

const roleOf = (name: string): ProposedRole | '' =>
  passes.value?.cost?.parameter === name
    ? 'cost'
    : (passedRoles.find((role) => passes.value?.[role] === name) ?? '');
/** Each of them is read from one parameter: what was read from another before is so no more. */
const withRole = (before: Passes, name: string, role: ProposedRole | '', currency: string): Passes => {
  const { cost, ...others } = before;
  const kept = Object.fromEntries(
    Object.entries(others).filter(([other, parameter]) => other !== role && parameter !== name),
  );
  const keptCost = role === 'cost' || cost?.parameter === name ? undefined : cost;
  return {
    ...kept,
    ...(keptCost && { cost: keptCost }),
    ...(role === 'cost' && { cost: { parameter: name, currency } }),
    ...(role !== '' && role !== 'cost' && { [role]: name }),
  };
};
const currencyFor = (parameter: string): string =>
  found.value.find(({ name }) => name === parameter)?.currency ?? catalogue.settings.currency;
const take = (next: Passes) => (passes.value = Object.keys(next).length > 0 ? next : undefined);
const setRole = (name: string, role: ProposedRole | '') =>
  take(withRole(passes.value ?? {}, name, role, currencyFor(name)));
const setCurrency = (currency: string) => {
  const { cost, ...others } = passes.value ?? {};
  if (cost) take({ ...others, cost: { ...cost, currency } });
};
const seen = ({ samples, values, unfilled, requests }: PassedParameter): string => {
  const rest = values - samples.length - (unfilled > 0 ? 1 : 0);
  return [
    samples.join(', ') + (rest > 0 && samples.length > 0 ? ` and ${count(rest)} more` : ''),
    ...(unfilled === 0
      ? []
      : [
          unfilled === requests
            ? 'never filled by the seller'
            : `${count(unfilled)} not filled by the seller`,
        ]),
  ]
    .filter((text) => text !== '')
    .join('; ');
};
/** What came, and what is read though nothing came in it lately. */
const rows = computed(() => {
  const { cost, ...others } = passes.value ?? {};
  const names = [...Object.values(others), ...(cost ? [cost.parameter] : [])];
  const unseen = [...new Set(names)].filter((name) => !found.value.some((one) => one.name === name));
  return [
    ...found.value.map((one) => ({ name: one.name, words: seen(one), came: true })),
    ...unseen.map((name) => ({ name, words: 'nothing came in it lately', came: false })),
  ];
});
/** What the names and values say, where nothing of it is chosen yet. */
const proposed = computed(() => {
  const chosen = passes.value ?? {};
  return found.value.flatMap(({ name, role }, i) =>
    role !== undefined &&
    roleOf(name) === '' &&
    chosen[role] === undefined &&
    found.value.findIndex((one) => one.role === role) === i
      ? [{ name, role }]
      : [],
  );
});
const takeProposed = () => {
  let next = passes.value ?? {};
  for (const { name, role } of proposed.value) next = withRole(next, name, role, currencyFor(name));
  take(next);
};
const what = (role: ProposedRole) => (role === 'cost' ? 'the cost of the visit' : role);
</script>

<template>
  <section class="passed" aria-label="Passed along">
    <h2>Passed along</h2>
    <p v-if="rows.length === 0" class="quiet">
      <template v-if="loaded"
        >Nothing so far. Where a seller fills in parameters, such as
        <span class="mono">?from={{ source }}&amp;zone=…&amp;cost=…</span>, they can be read here.</template
      >
    </p>
    <template v-else>
      <p v-if="proposed.length > 0">
        By what came in them:
        <template v-for="(one, i) in proposed" :key="one.name"
          ><template v-if="i > 0">, </template><span class="mono">{{ one.name }}</span> is
          {{ what(one.role) }}</template
        >.
        <text-link @click="takeProposed">Read them so</text-link>
      </p>
      <ul>
        <li v-for="one in rows" :key="one.name">
          <span class="came"
            ><b class="mono name">{{ one.name }}</b
            ><span class="quiet samples" :class="{ mono: one.came }">{{ one.words }}</span></span
          >
          <v-select
            :model-value="roleOf(one.name)"
            :items="roles"
            :aria-label="`What ${one.name} is`"
            class="small-field"
            hide-details
            @update:model-value="setRole(one.name, $event)"
          />
          <v-autocomplete
            v-if="passes?.cost && roleOf(one.name) === 'cost'"
            :model-value="passes.cost.currency"
            :items="currencies"
            aria-label="Currency"
            class="small-field"
            hide-details
            auto-select-first
            @update:model-value="$event && setCurrency($event)"
          />
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.passed {
  grid-column: 1 / -1;
  display: grid;
  gap: 6px;
}
h2,
p {
  margin: 0;
}
h2 {
  font-size: 15px;
}
ul {
  display: grid;
  gap: 6px;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 560px) 190px 130px;
  gap: 10px;
  align-items: center;
}
.came {
  min-width: 0;
}
.name {
  margin-inline-end: 12px;
}
.samples {
  overflow-wrap: anywhere;
}
@media (max-width: 560px) {
  li {
    grid-template-columns: minmax(0, 1fr) 1fr;
  }
  .came {
    grid-column: 1 / -1;
  }
}
</style>
