<script setup lang="ts">
import { ref } from 'vue';

/** A word of the sentence above the figures, which is the control of what it says. */
defineProps<{
  word: string;
  label: string;
  /** It stands beside the sentence, not in it. */
  plain?: boolean;
}>();
const open = ref(false);
defineExpose({ close: () => (open.value = false) });
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props: opens }">
      <text-link v-bind="opens" :class="{ word: !plain }" :aria-description="plain ? undefined : label">{{
        word
      }}</text-link>
    </template>
    <v-card class="choices" :aria-label="label" role="dialog"><slot :close="() => (open = false)" /></v-card>
  </v-menu>
</template>

<style scoped>
.word {
  color: var(--fern);
  font: inherit;
  border-bottom: 2px dotted currentcolor;
}
.choices {
  max-height: 60vh;
  overflow: auto;
}
</style>
