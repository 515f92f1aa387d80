<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Domain, Link, Marks } from '#core/catalogue';
import { marksOf, relValues } from '#core/catalogue';
import { linkHtml, relOf } from '#core/placing';
import { useNotice } from '../frame/notice.ts';
import { shortUrl } from './address.ts';
import RouteLeaf from './RouteLeaf.vue';

const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const notice = useNotice();
const marks = ref<Marks>({ ...props.domain.marks });
const follows = ref(true);

const current = computed(() => marksOf(props.link, props.domain));
const html = computed(() =>
  linkHtml(shortUrl(props.domain, props.link.slug), props.link.title, current.value),
);
watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    marks.value = { ...current.value, rel: [...current.value.rel] };
    follows.value = Object.keys(props.link.marks).length === 0;
  },
  { immediate: true },
);
const meanings = {
  sponsored: 'sponsored: it is paid',
  nofollow: 'nofollow: not a recommendation to search engines',
  ugc: 'ugc: written by visitors',
} as const;
const save = () => emit('save', { ...props.link, marks: follows.value ? {} : { ...marks.value } });
</script>

<template>
  <route-leaf
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
    <button class="text-link" type="button" @click="notice.copy(html, 'The HTML is copied, with its marks.')">
      Copy as HTML
    </button>
    <template #editor>
      <v-checkbox
        v-model="follows"
        :label="`As ${domain.host} does: ${relOf(domain.marks) || 'no rel values'}`"
      />
      <template v-if="!follows">
        <v-checkbox
          v-for="rel in relValues"
          :key="rel"
          v-model="marks.rel"
          :value="rel"
          :label="meanings[rel]"
        />
        <v-checkbox v-model="marks.newTab" label="Opens a new tab" />
        <v-text-field v-model="marks.title" label="Title shown on hover" />
      </template>
    </template>
  </route-leaf>
</template>
