<script setup lang="ts">
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue';
import type { Link } from '#core/catalogue';
import { searchLinks } from '#core/link-parts';
import { useCatalogue } from '../../data/catalogue.ts';
import { useLinkActions } from '../linkActions.ts';

/** One's links by a few letters; Enter leaves the chosen one on the clipboard, as a link for editors and as its address. */
const emit = defineEmits<{ copied: [link: Link] }>();
const catalogue = useCatalogue();
const { copy } = useLinkActions();
const field = useTemplateRef<{ focus: () => void }>('field');
const words = ref('');
const at = ref(0);
const shownMost = 8;
const found = computed(() => {
  const open = catalogue.links.filter((link) => !link.archived);
  const all =
    words.value.trim() === ''
      ? open.toSorted((a, b) => b.createdAt - a.createdAt)
      : searchLinks(words.value, open);
  return all.slice(0, shownMost);
});
const chosen = computed(() => found.value[at.value]);
watch(words, () => (at.value = 0));
const choose = async (link: Link | undefined): Promise<void> => {
  if (!link) return;
  await copy(link);
  emit('copied', link);
};
const move = (by: number) => (at.value = Math.min(found.value.length - 1, Math.max(0, at.value + by)));
onMounted(() => field.value?.focus());
</script>

<template>
  <div class="search">
    <v-text-field
      ref="field"
      v-model="words"
      label="Slug, title or program"
      aria-autocomplete="list"
      aria-controls="found-links"
      :aria-activedescendant="chosen ? `found-${chosen.id}` : undefined"
      @keydown.enter.prevent="choose(chosen)"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
    />
    <v-list id="found-links" density="compact" role="listbox" aria-label="Links">
      <v-list-item
        v-for="(link, i) in found"
        :id="`found-${link.id}`"
        :key="link.id"
        role="option"
        tabindex="-1"
        :active="i === at"
        :aria-selected="i === at"
        @click="choose(link)"
      >
        <strong class="mono">{{ link.slug }}</strong>
        <span class="quiet">{{ link.anchor ?? link.title }}</span>
      </v-list-item>
    </v-list>
    <p v-if="found.length === 0" class="quiet" role="status">
      {{ catalogue.links.length === 0 ? 'There are no links yet.' : `No link has “${words.trim()}” in it.` }}
    </p>
  </div>
</template>

<style scoped>
.search {
  font-size: 14px;
}
.v-list {
  margin: 8px -16px 0;
  background: none;
}
.mono {
  margin-right: 10px;
}
p {
  margin: 8px 0 0;
}
</style>
