<script setup lang="ts">
import { computed, defineAsyncComponent, ref, useTemplateRef, watch } from 'vue';
import type { Domain, HopChoices, Link } from '#core/catalogue';
import {
  allowedHop,
  checkRecord,
  firstProblem,
  hopOf,
  ownAfterEdit,
  restrictionsOf,
  withoutChoice,
} from '#core/catalogue';
import { choiceWords, describeHop, forbidsFraming } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { traceOnce } from '../data/trace.ts';
import OwnChoices from './OwnChoices.vue';
import RouteSection from './RouteSection.vue';
import { useLinkUse } from './linkUse.ts';
import { testDestination } from './testDestination.ts';

const HopFields = defineAsyncComponent(() => import('./HopFields.vue'));
const HopMenu = defineAsyncComponent(() => import('./HopMenu.vue'));
const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const choices = ref<HopChoices>({ ...props.domain.hop });
/** The choices as the form was opened. */
let opened: HopChoices = props.domain.hop;
const problem = ref('');
const asking = ref(false);
/** The menu of ways is open. */
const choosing = ref(false);
const wasOpened = ref(false);
watch(choosing, () => (wasOpened.value = true));
const opener = useTemplateRef<{ $el: HTMLElement }>('opener');
/** Escape closes the menu first, and leaves the link only where it is closed. */
const closeMenu = (event: Event) => {
  if (!choosing.value) return;
  event.stopPropagation();
  choosing.value = false;
};

const restrictions = computed(() => restrictionsOf(catalogue.program(props.link.program), props.domain));
const chosen = computed(() => hopOf(props.link, props.domain));
const current = computed(() => allowedHop(chosen.value, restrictions.value));
const shortForbidden = computed(() => restrictions.value.find((h) => h.what === 'short')?.because);
/** What it does otherwise than its domain. */
const own = computed(() => Object.keys(props.link.hop) as (keyof HopChoices)[]); // the keys of a link's hop are choices
const back = (key: keyof HopChoices) =>
  emit('save', { ...props.link, hop: withoutChoice(props.link.hop, key) });
const use = useLinkUse(() => props.link.id);
watch(
  () => props.editing,
  (editing) => {
    problem.value = '';
    if (!editing) return;
    choices.value = JSON.parse(JSON.stringify(chosen.value));
    opened = JSON.parse(JSON.stringify(chosen.value));
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

/** Saves other choices, once the shop was asked whether it may be framed, where they are to frame it. */
const saveChoices = async (next: HopChoices, before: HopChoices) => {
  const link = { ...props.link, hop: ownAfterEdit(next, before, props.link.hop) };
  const checked = checkRecord('link', JSON.parse(JSON.stringify(link)));
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  if (next.page === 'frame' && before.page !== 'frame') {
    asking.value = true;
    problem.value = (await frameProblem()) ?? '';
    asking.value = false;
    if (problem.value !== '') return;
  }
  emit('save', link);
};
const save = () => saveChoices(choices.value, opened);
const choose = async (next: HopChoices) => {
  choosing.value = false;
  await saveChoices(next, JSON.parse(JSON.stringify(chosen.value)));
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
    <text-link
      ref="opener"
      aria-haspopup="menu"
      :aria-expanded="choosing"
      @click="choosing = !choosing"
      @keydown.esc="closeMenu"
    >
      another way
    </text-link>
    <hop-menu
      v-if="opener && wasOpened"
      v-model="choosing"
      :activator="opener.$el"
      :current="chosen"
      :usual="domain.hop"
      :host="domain.host"
      :restrictions="restrictions"
      :clicks="use.clicks"
      :repeats="use.repeats"
      @choose="choose"
    />
    <p v-if="asking" class="quiet" role="status">Asking the destination whether it may be framed…</p>
    <p v-if="problem !== ''" class="forbidden" role="alert">{{ problem }}</p>
    <own-choices :own="own" :words="choiceWords" :host="domain.host" @back="back" />
    <p v-if="shortForbidden" class="forbidden">{{ shortForbidden }}</p>
    <template #editor>
      <p class="quiet note">What you leave as it is follows {{ domain.host }}, now and later.</p>
      <hop-fields
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
.note {
  margin: 0;
}
.forbidden {
  margin: 2px 0 0;
  font-size: 13px;
  color: var(--copper);
}
</style>
