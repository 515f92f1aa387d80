<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import type { Domain, Link, Marks } from '#core/catalogue';
import { marksOf, ownAfterEdit, restrictionsOf, withoutChoice } from '#core/catalogue';
import { clipOf, relOf, noDisclosure } from '#core/placing';
import { useNotice } from '../shell/notice.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { usePlacing } from './copying/placing.ts';
import { useLinkUse } from './linkUse.ts';
import OwnChoices from './OwnChoices.vue';
import RouteSection from './RouteSection.vue';

const MarksFields = defineAsyncComponent(() => import('./MarksFields.vue'));
const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const marks = ref<Marks>({ ...props.domain.marks });
/** The marks as the form was opened. */
let opened: Marks = props.domain.marks;
const markWords: Readonly<Record<keyof Marks, string>> = {
  rel: 'rel values',
  newTab: 'new tab',
  title: 'hover title',
};
/** What it carries otherwise than its domain. */
const own = computed(() => Object.keys(props.link.marks) as (keyof Marks)[]); // the keys of a link's marks
const back = (key: keyof Marks) =>
  emit('save', { ...props.link, marks: withoutChoice(props.link.marks, key) });

const current = computed(() => marksOf(props.link, props.domain));
const restrictions = computed(() => restrictionsOf(catalogue.program(props.link.program), props.domain));
/** What the merchant or the domain asks of whoever places the link; the short link itself is spoken of at the hop. */
const asked = computed(() =>
  restrictions.value.filter(
    (h) =>
      h.what === 'mail' ||
      h.what === 'social' ||
      (h.what === 'name' && !props.link.title.toLowerCase().includes(ruleName.value.toLowerCase())),
  ),
);
const ruleName = computed(() => catalogue.program(props.link.program)?.rules?.name ?? '');
const use = useLinkUse(() => props.link.id);
/** Where its visitors came from lately, most first: pages, else hosts, and sources. */
const placed = computed(() => {
  const most = (map: ReadonlyMap<string, number>) =>
    [...map]
      .filter(([name]) => name !== '')
      .sort((a, b) => b[1] - a[1])
      .slice(0, 3)
      .map(([name]) => name.replace(/^https?:\/\//, '').replace(/\/$/, ''));
  return [...most(use.value.pages), ...most(use.value.sources).map((name) => `~${name}`)];
});
const { placingOf } = usePlacing();
const copyHtml = () => {
  const placing = placingOf(props.link, props.domain);
  if ('refused' in placing) return notice.say(`Nothing is copied. ${placing.refused}`);
  return notice.copy(
    clipOf('html', { link: placing.link, disclosure: noDisclosure }),
    'The HTML is copied, with its marks.',
  );
};
watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    marks.value = { ...current.value, rel: [...current.value.rel] };
    opened = JSON.parse(JSON.stringify(current.value));
  },
  { immediate: true },
);
const save = () =>
  emit('save', { ...props.link, marks: ownAfterEdit({ ...marks.value }, opened, props.link.marks) });
</script>

<template>
  <route-section
    label="Marks"
    editable
    :editing="editing"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    <template v-if="relOf(current)"
      ><code>rel="{{ relOf(current) }}"</code>,
    </template>
    <template v-else>No rel values, </template>
    {{ current.newTab ? 'opens a new tab' : 'opens in the same tab' }}.
    <text-link @click="copyHtml">Copy as HTML</text-link>
    <own-choices :own="own" :words="markWords" :host="domain.host" @back="back" />
    <p v-for="rule in asked" :key="rule.what" class="asked">{{ rule.because }}</p>
    <p v-if="placed.length > 0" class="quiet placed">Seen on {{ placed.join(', ') }}.</p>
    <template #editor>
      <p class="quiet note">What you leave as it is follows {{ domain.host }}, now and later.</p>
      <marks-fields v-model="marks" />
    </template>
  </route-section>
</template>

<style scoped>
.note {
  margin: 0;
}
.asked,
.placed {
  margin: 2px 0 0;
  font-size: 13px;
  overflow-wrap: anywhere;
}
.asked {
  color: var(--copper);
}
</style>
