<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import type { Domain, Link, Marks } from '#core/catalogue';
import { restrictionsOf, marksOf } from '#core/catalogue';
import { linkHtml, relOf } from '#core/placing';
import { useNotice } from '../shell/notice.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { countedAs, placedUrl } from './address.ts';
import { useLinkUse } from './linkUse.ts';
import RouteSection from './RouteSection.vue';

const MarksFields = defineAsyncComponent(() => import('./MarksFields.vue'));
const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const marks = ref<Marks>({ ...props.domain.marks });
const follows = ref(true);

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
const placing = computed(() => placedUrl(props.domain, props.link, restrictions.value, catalogue.networks));
const htmlOf = (address: string) =>
  linkHtml(
    address,
    props.link.title,
    current.value,
    restrictions.value.some((h) => h.what === 'short') ? countedAs(props.link) : undefined,
  );
const copyHtml = () =>
  'refused' in placing.value
    ? notice.say(`Nothing is copied. ${placing.value.refused}`)
    : notice.copy(htmlOf(placing.value.address), 'The HTML is copied, with its marks.');
watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    marks.value = { ...current.value, rel: [...current.value.rel] };
    follows.value = Object.keys(props.link.marks).length === 0;
  },
  { immediate: true },
);
const save = () => emit('save', { ...props.link, marks: follows.value ? {} : { ...marks.value } });
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
    <button class="text-link" type="button" @click="copyHtml">Copy as HTML</button>
    <p v-for="rule in asked" :key="rule.what" class="asked">{{ rule.because }}</p>
    <p v-if="placed.length > 0" class="quiet placed">Seen on {{ placed.join(', ') }}.</p>
    <template #editor>
      <marks-fields
        v-model="marks"
        v-model:follows="follows"
        :otherwise="`As ${domain.host} does: ${relOf(domain.marks) || 'no rel values'}`"
      />
    </template>
  </route-section>
</template>

<style scoped>
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
