<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { PlacingLook } from '#core/placing';
import { buttonStyle, linkStyle, lookProblems, usualLook } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

/** How links and buttons look that are copied into pages: as the page has them, or in the person's own colours. */
const catalogue = useCatalogue();
const notice = useNotice();
const draft = ref<PlacingLook>(usualLook);
watch(
  () => catalogue.settings.placing,
  (kept) => (draft.value = { ...(kept ?? usualLook) }),
  { immediate: true },
);
const fields = [
  { key: 'link', label: 'Links' },
  { key: 'ground', label: 'Behind a button' },
  { key: 'ink', label: 'Words of a button' },
] as const;
const problems = computed(() => lookProblems(draft.value));
const changed = computed(() => JSON.stringify(draft.value) !== JSON.stringify(catalogue.settings.placing));
const save = async () => {
  const step = await catalogue.saveRecord('settings', { ...catalogue.settings, placing: { ...draft.value } });
  notice.did('Links are copied in your own look from now on.', step);
};
const plain = async () => {
  const { placing: _, ...rest } = catalogue.settings;
  const step = await catalogue.saveRecord('settings', rest);
  notice.did('Links are copied plain from now on.', step);
};
</script>

<template>
  <section aria-labelledby="h-placing">
    <h2 id="h-placing">Placed links</h2>
    <p class="quiet">
      {{
        catalogue.settings.placing
          ? 'Links are copied in these colours.'
          : 'Links are copied plain and look as the page has its links. Choose colours and they are copied in them.'
      }}
    </p>
    <form @submit.prevent="save">
      <v-text-field
        v-for="{ key, label } in fields"
        :key="key"
        v-model="draft[key]"
        type="color"
        :label="label"
      />
      <!-- Just as it is copied. -->
      <p class="sample">
        A <span :style="linkStyle(draft)">link in a text</span> and a
        <span :style="buttonStyle(draft)">button</span>
      </p>
      <p v-for="problem in problems" :key="problem" class="bad" role="alert">{{ problem }}</p>
      <div class="line">
        <v-btn type="submit" color="primary" :disabled="!changed || problems.length > 0">
          Copy links in this look
        </v-btn>
        <v-btn v-if="catalogue.settings.placing" class="quiet-button" @click="plain">Copy them plain</v-btn>
      </div>
    </form>
  </section>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px;
}
.sample,
.bad,
.line {
  grid-column: 1 / -1;
}
.sample {
  margin: 0;
  padding: 12px;
  background: #fff;
  color: #222;
  border: 1px solid var(--line);
}
.bad {
  margin: 0;
  color: var(--copper);
}
.line {
  display: flex;
  gap: 10px;
}
</style>
