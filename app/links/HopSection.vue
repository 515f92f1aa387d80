<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import type { Domain, HopChoices, Link } from '#core/catalogue';
import { allowedHop, checkRecord, firstProblem, hopOf, restrictionsOf } from '#core/catalogue';
import { describeHop, forbidsFraming } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { traceOnce } from '../data/trace.ts';
import RouteSection from './RouteSection.vue';
import { useLinkUse } from './linkUse.ts';
import { testDestination } from './testDestination.ts';

const HopFields = defineAsyncComponent(() => import('./HopFields.vue'));
const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const choices = ref<HopChoices>({ ...props.domain.hop });
const follows = ref(true);
const problem = ref('');
const asking = ref(false);

const restrictions = computed(() => restrictionsOf(catalogue.program(props.link.program), props.domain));
const chosen = computed(() => hopOf(props.link, props.domain));
const current = computed(() => allowedHop(chosen.value, restrictions.value));
const shortForbidden = computed(() => restrictions.value.find((h) => h.what === 'short')?.because);
const use = useLinkUse(() => props.link.id);
watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    choices.value = JSON.parse(JSON.stringify(chosen.value));
    follows.value = Object.keys(props.link.hop).length === 0;
    problem.value = '';
  },
  { immediate: true },
);

/** Why the destination may not be framed; undefined when it may. Asking it is a click of ours, so it carries a test label. */
const frameProblem = async (): Promise<string | undefined> => {
  const trace = await traceOnce(testDestination(props.link), props.link.id);
  if (trace === undefined)
    return 'The server did not answer, so nobody could ask whether the shop may be framed.';
  for (const hop of trace.hops) {
    const because = hop.status === 200 ? forbidsFraming(hop.headers, props.domain.host) : undefined;
    if (because) return `${new URL(hop.url).host} forbids being framed. ${because} Choose another way.`;
  }
  return trace.end === 'arrived'
    ? undefined
    : `The destination could not be asked whether it may be framed: ${trace.because}`;
};

const save = async () => {
  const next = { ...props.link, hop: follows.value ? {} : { ...choices.value } };
  const checked = checkRecord('link', JSON.parse(JSON.stringify(next)));
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  if (!follows.value && choices.value.page === 'frame') {
    asking.value = true;
    problem.value = (await frameProblem()) ?? '';
    asking.value = false;
    if (problem.value !== '') return;
  }
  emit('save', next);
};
</script>

<template>
  <route-section
    label="Hop"
    editable
    :editing="editing"
    :problem="problem"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    {{ describeHop(current) }}
    <p v-if="shortForbidden" class="forbidden">{{ shortForbidden }}</p>
    <template #editor>
      <v-checkbox v-model="follows" :label="`As ${domain.host} does: ${describeHop(domain.hop)}`" />
      <hop-fields
        v-if="!follows"
        v-model="choices"
        :restrictions="restrictions"
        :clicks="use.clicks"
        :repeats="use.repeats"
      />
      <p v-if="asking" class="quiet" role="status">Asking the destination whether it may be framed…</p>
    </template>
  </route-section>
</template>

<style scoped>
.forbidden {
  margin: 2px 0 0;
  font-size: 13px;
  color: var(--copper);
}
</style>
