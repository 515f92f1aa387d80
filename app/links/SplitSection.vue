<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import type { Branch, Domain, Link } from '#core/catalogue';
import { checkRecord, hopOf } from '#core/catalogue';
import { branchWarnings, describeConditions, everyoneElse, prepareLink } from '#core/hop';
import { useLinkUse } from './linkUse.ts';
import RouteSection from './RouteSection.vue';
import { useShares } from './shares.ts';

const WhichBranch = defineAsyncComponent(() => import('../decide/WhichBranch.vue'));
const SplitEditor = defineAsyncComponent(() => import('./SplitEditor.vue'));
const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const branches = ref<Branch[]>([]);
const weight = ref(1);
/** How many visitors of a hundred each branch keeps while weights move by themselves; nought while they do not. */
const least = ref(0);

watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    branches.value = JSON.parse(JSON.stringify(props.link.branches ?? []));
    weight.value = props.link.weight ?? 1;
    least.value = props.link.movesWeights?.least ?? 0;
  },
  { immediate: true },
);
const draft = computed((): Link => {
  const { branches: _1, weight: _2, movesWeights: _3, ...rest } = props.link;
  return {
    ...rest,
    ...(branches.value.length > 0 && { branches: branches.value }),
    ...(branches.value.length > 0 && weight.value !== 1 && { weight: weight.value }),
    ...(branches.value.length > 0 && least.value > 0 && { movesWeights: { least: least.value } }),
  };
});
const problem = computed(() => {
  if (!props.editing) return '';
  const checked = checkRecord('link', JSON.parse(JSON.stringify(draft.value)));
  const ready = checked.ok
    ? prepareLink(checked.value, hopOf(checked.value, props.domain), props.domain)
    : checked;
  if (ready.ok) return '';
  const [first] = ready.problems;
  const branch = /^branches\.(\d+)/.exec(first?.path ?? '')?.[1];
  return `${branch === undefined ? '' : `Branch ${Number(branch) + 1}: `}${first?.message ?? ''}`;
});

const shown = computed(() => (props.editing ? draft.value : props.link));
const { came, expected, drawnFrom } = useShares(
  () => shown.value,
  () => props.domain,
);
const warnings = computed(() =>
  branchWarnings(shown.value.branches ?? [], props.domain.zone, Date.now(), came.value),
);
const use = useLinkUse(() => props.link.id);
/** Visits from before there was a split tell nothing of it. */
const hasSplit = computed(() => (shown.value.branches ?? []).some(({ id }) => use.value.branches.has(id)));
const rows = computed(() => {
  const real = use.value.branches;
  const all = hasSplit.value ? [...real.values()].reduce((sum, n) => sum + n, 0) : 0;
  const own = { id: everyoneElse, name: 'Everyone else', when: {}, weight: shown.value.weight ?? 1 };
  return [...(shown.value.branches ?? []), own].map((branch) => ({
    id: branch.id,
    name: branch.name || describeConditions(branch.when) || 'Everyone',
    expected: expected.value.get(branch.id) ?? 0,
    real: all === 0 ? undefined : (real.get(branch.id) ?? 0) / all,
  }));
});
const likeWhom = {
  link: 'made like those it had',
  all: 'made like those of all your links, since it had few',
  nobody: 'made up, since few came yet',
};
const percent = (share: number) => `${Math.round(share * 100)} %`;
const save = () => {
  if (problem.value === '') emit('save', draft.value);
};
</script>

<template>
  <route-section
    label="Split"
    editable
    :editing="editing"
    :problem="problem"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    <template v-if="(link.branches ?? []).length === 0">Everyone goes the same way.</template>
    <small-table v-else>
      <thead>
        <tr>
          <th scope="col"><span class="visually-hidden">Branch</span></th>
          <th scope="col"><span class="visually-hidden">Drawn</span></th>
          <th scope="col" class="number">expected</th>
          <th scope="col" class="number">real</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.id">
          <td class="name" :title="row.name">{{ row.name }}</td>
          <td class="bars">
            <v-progress-linear
              :model-value="row.expected"
              :max="1"
              :height="6"
              color="line"
              :aria-label="`${row.name}: expected`"
            />
            <v-progress-linear
              v-if="row.real !== undefined"
              class="real"
              :model-value="row.real"
              :max="1"
              :height="6"
              color="fern"
              :aria-label="`${row.name}: real`"
            />
          </td>
          <td class="number">{{ expected.size === 0 ? '…' : percent(row.expected) }}</td>
          <td class="number">{{ row.real === undefined ? '—' : percent(row.real) }}</td>
        </tr>
      </tbody>
    </small-table>
    <which-branch v-if="hasSplit && !editing" :key="link.id" :link="link" />
    <p v-if="warnings.length > 0 && !editing" class="warned" role="note">
      {{ warnings.length === 1 ? 'A branch' : `${warnings.length} things about its branches` }} may not do
      what was meant.
      {{ warnings[0]?.words }}
    </p>
    <template #editor>
      <split-editor
        v-model="branches"
        v-model:weight="weight"
        v-model:least="least"
        :zone="domain.zone"
        :destination="link.destination"
        :warnings="warnings"
        :came="hasSplit ? use.branches : new Map()"
      />
      <p v-if="branches.length > 0 && expected.size === 0" class="quiet expects" role="status">
        Sending 100,000 simulated visitors…
      </p>
      <p v-else-if="branches.length > 0" class="quiet expects">
        <template v-for="(row, i) in rows" :key="row.id"
          ><template v-if="i > 0"> · </template>{{ row.name }} {{ percent(row.expected) }}</template
        ><br />
        of 100,000 simulated visitors,
        {{ likeWhom[drawnFrom] }}.
      </p>
    </template>
  </route-section>
</template>

<style scoped>
.warned {
  margin: 4px 0 0;
  font-size: 13px;
  color: var(--copper);
}
.small-table {
  width: 100%;
}
td {
  padding: 1px 0 1px 8px;
}
td.name {
  padding-left: 0;
  max-width: 150px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bars {
  width: 38%;
}
.real {
  margin-top: 1px;
}
.number {
  white-space: nowrap;
  width: 58px;
}
.expects {
  margin: 0;
  font-size: 13px;
}
</style>
