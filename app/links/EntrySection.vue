<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import type { Domain, Link } from '#core/catalogue';
import {
  alternatives,
  checkRecord,
  firstProblem,
  hopOf,
  looksLikeEvent,
  slugProblem,
  withAddress,
} from '#core/catalogue';
import { pagePath } from '#core/link-parts';
import { openingOf, prepareLink } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { dayMonth, localMoment } from '../theme/formats.ts';
import type { EntryDraft } from './EntryFields.vue';
import { isTaken } from './taken.ts';
import LinkPicture from './LinkPicture.vue';
import RouteSection from './RouteSection.vue';

const EntryFields = defineAsyncComponent(() => import('./EntryFields.vue'));
const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const empty = (): EntryDraft => ({
  title: '',
  slug: '',
  group: '',
  tags: [],
  notes: '',
  hours: {},
  coupons: [],
  couponSource: '',
});
const draft = ref<EntryDraft>(empty());

watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    const { title, slug, group = '', tags = [], notes, hours = {}, coupons } = props.link;
    draft.value = {
      title,
      slug,
      group,
      tags: [...tags],
      notes,
      hours: JSON.parse(JSON.stringify(hours)),
      coupons: [...(coupons?.codes ?? [])],
      couponSource: coupons?.source ?? '',
    };
  },
  { immediate: true },
);
const taken = (text: string) => isTaken(catalogue.links, props.domain, text, props.link.id);
const groups = computed(() =>
  [...new Set(catalogue.links.flatMap((link) => (link.group ? [link.group] : [])))].sort(),
);

const allTags = computed(() => [...new Set(catalogue.links.flatMap(({ tags = [] }) => tags))].sort());

const next = computed((): Link => {
  const slug = draft.value.slug.trim().toLowerCase();
  const group = (draft.value.group ?? '').trim().toLowerCase();
  // An address that never answered anywhere need not go on answering; another link may have it by now.
  const { group: _, ...rest } = props.link;
  const moved = catalogue.wasLive(props.link.id)
    ? withAddress(props.link, slug, group)
    : { ...rest, slug, ...(group !== '' && { group }) };
  const { tags: _1, hours: _2, coupons: _3, ...kept } = moved;
  const words = (list: readonly string[]) => [...new Set(list.map((word) => word.trim()).filter(Boolean))];
  const tags = words(draft.value.tags);
  const codes = words(draft.value.coupons);
  // An empty set of hours says that it was asked and has no end.
  const asked =
    Object.keys(draft.value.hours).length > 0 || suspicious.value || props.link.hours !== undefined;
  return {
    ...kept,
    title: draft.value.title.trim(),
    notes: draft.value.notes,
    ...(tags.length > 0 && { tags }),
    ...(codes.length > 0 && { coupons: { codes, source: draft.value.couponSource.trim() } }),
    ...(asked && { hours: draft.value.hours }),
  };
});
const problem = computed(() => {
  if (!props.editing) return '';
  const text = next.value.slug;
  if (next.value.title === '') return 'The title is empty. It is what you find the link by.';
  const wrong = slugProblem(text) ?? (next.value.group ? slugProblem(next.value.group) : undefined);
  if (wrong !== undefined) return wrong;
  if (taken(text)) return `${text} is taken. Free are ${alternatives(text, taken).join(', ')}.`;
  const checked = checkRecord('link', JSON.parse(JSON.stringify(next.value)));
  const ready = checked.ok
    ? prepareLink(checked.value, hopOf(checked.value, props.domain), props.domain)
    : checked;
  return firstProblem(ready);
});
const suspicious = computed(() => looksLikeEvent(`${props.link.title} ${pagePath(props.link.destination)}`));
const asksEnd = computed(() => suspicious.value && props.link.hours === undefined);
const keeps = computed(() => {
  const { slug, group } = props.link;
  const same = next.value.slug === slug && (next.value.group ?? '') === (group ?? '');
  return same || !catalogue.wasLive(props.link.id)
    ? undefined
    : `/${props.domain.prefix}${group && props.domain.groups ? `${group}/` : ''}${slug}`;
});
const save = () => {
  if (problem.value === '') emit('save', next.value);
};
/** Its hours by the clock they were entered in. */
const opening = computed(() => {
  const now = Date.now();
  const { from, until, opens = 0, closes = 0, zone = '' } = openingOf(props.link, props.domain, now) ?? {};
  return [
    from === undefined ? '' : `${now < opens ? 'Opens' : 'Open since'} ${localMoment(from, zone)}.`,
    until === undefined ? '' : `${now < closes ? 'Closes' : 'Closed since'} ${localMoment(until, zone)}.`,
  ]
    .filter(Boolean)
    .join(' ');
});
</script>

<template>
  <route-section
    label="Entry"
    filled
    editable
    :editing="editing"
    :problem="problem"
    :tone="asksEnd ? 'copper' : 'fern'"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    Made {{ dayMonth(link.createdAt) }}. {{ opening }}
    <template v-if="link.aliases.length > 0">
      Also answers at
      <template v-for="(alias, i) in link.aliases" :key="alias"
        ><span v-if="i > 0">, </span><code>/{{ domain.prefix }}{{ alias }}</code></template
      >.
    </template>
    <link-picture v-if="link.picture" :address="link.picture" :title="link.title" />
    <p v-if="link.group || link.tags" class="filed">
      <span v-if="link.group" class="tile">{{ link.group }}</span>
      <span v-for="tag in link.tags ?? []" :key="tag" class="tile outlined">{{ tag }}</span>
    </p>
    <p v-if="link.coupons" class="filed">
      Hands out <span class="mono">{{ link.coupons.codes.join(', ') }}</span><template
        v-if="link.coupons.source"
      >
        at {{ link.coupons.source }}</template
      >.
    </p>
    <p v-if="asksEnd" class="asks">
      This reads like something that ends.
      <text-link @click="emit('edit')">Say when</text-link>
      <text-link @click="emit('save', { ...link, hours: {} })"> It does not end </text-link>
    </p>
    <p v-if="link.notes" class="quiet notes">{{ link.notes }}</p>
    <template #editor>
      <entry-fields
        v-model="draft"
        :domain="domain"
        :groups="groups"
        :tags="allTags"
        :keeps="keeps"
        :asks-end="asksEnd"
      />
    </template>
  </route-section>
</template>

<style scoped>
.notes,
.asks,
.filed {
  margin: 2px 0 0;
  font-size: 13px;
}
a {
  color: var(--fern);
}
.filed {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
}
.asks {
  color: var(--copper);
}
.asks .text-link {
  margin-left: 8px;
}
</style>
