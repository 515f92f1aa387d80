<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Domain, Link } from '#core/catalogue';
import { alternatives, slugProblem, withSlug } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { dayMonth } from '../look/formats.ts';
import { isTaken } from './makeLink.ts';
import RouteLeaf from './RouteLeaf.vue';

const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const title = ref('');
const slug = ref('');
const notes = ref('');

watch(
  () => props.editing,
  (editing) => {
    if (editing) ({ title: title.value, slug: slug.value, notes: notes.value } = props.link);
  },
  { immediate: true },
);
const taken = (text: string) => isTaken(catalogue.links, props.domain, text, props.link.id);
const problem = computed(() => {
  const text = slug.value.trim().toLowerCase();
  if (title.value.trim() === '') return 'The title is empty. It is what you find the link by.';
  const wrong = slugProblem(text);
  if (wrong !== undefined) return wrong;
  if (taken(text)) return `${text} is taken. Free are ${alternatives(text, taken).join(', ')}.`;
  return undefined;
});
const save = () => {
  if (problem.value !== undefined) return;
  const next = slug.value.trim().toLowerCase();
  // An address that never answered anywhere need not go on answering; another link may have it by now.
  const renamed = catalogue.wasLive(props.link.id)
    ? withSlug(props.link, next)
    : { ...props.link, slug: next };
  emit('save', { ...renamed, title: title.value.trim(), notes: notes.value });
};
</script>

<template>
  <route-leaf
    label="Entry"
    filled
    editable
    :editing="editing"
    :problem="problem ?? ''"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    Made {{ dayMonth(link.createdAt) }}.
    <template v-if="link.aliases.length > 0">
      Also answers at
      <template v-for="(alias, i) in link.aliases" :key="alias"
        ><span v-if="i > 0">, </span><code>/{{ domain.prefix }}{{ alias }}</code></template
      >.
    </template>
    <p v-if="link.notes" class="quiet notes">{{ link.notes }}</p>
    <template #editor>
      <v-text-field v-model="title" label="Title" />
      <v-text-field v-model="slug" label="Slug" class="mono" :prefix="`${domain.host}/${domain.prefix}`" />
      <p v-if="slug.trim().toLowerCase() !== link.slug && catalogue.wasLive(link.id)" class="quiet note">
        /{{ domain.prefix }}{{ link.slug }} goes on answering.
      </p>
      <v-textarea v-model="notes" label="Notes" rows="2" auto-grow />
    </template>
  </route-leaf>
</template>

<style scoped>
.note,
.notes {
  margin: 0;
  font-size: 13px;
}
</style>
