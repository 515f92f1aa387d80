<script setup lang="ts">
import { ref } from 'vue';

/** A word of the sentence above the figures, which is the control of what it says. */
defineProps<{ word: string; label: string }>();
const open = ref(false);
defineExpose({ close: () => (open.value = false) });
</script>

<template>
  <v-menu v-model="open" :close-on-content-click="false" location="bottom start">
    <template #activator="{ props: opens }">
      <text-link class="word" v-bind="opens" :aria-label="`${label}: ${word}`">{{ word }}</text-link>
    </template>
    <v-card class="choices" :aria-label="label" role="dialog"><slot :close="() => (open = false)" /></v-card>
  </v-menu>
</template>

<style scoped>
.word {
  color: var(--fern);
  border-bottom: 2px dotted currentcolor;
}
.choices {
  max-height: 60vh;
  overflow: auto;
}
</style>
