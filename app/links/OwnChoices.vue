<script setup lang="ts" generic="K extends string">
import Hint from '../theme/Hint.vue';

/** What a link does otherwise than its domain, each with one press back to the domain's way. */
defineProps<{ own: readonly K[]; words: Readonly<Record<K, string>>; host: string }>();
const emit = defineEmits<{ back: [key: K] }>();
</script>

<template>
  <p v-if="own.length > 0" class="own">
    <span class="quiet">Its own:</span>
    <v-chip
      v-for="key in own"
      :key="key"
      tag="button"
      type="button"
      append-icon="$close"
      :aria-label="`${words[key]}: back to what ${host} does`"
      @click="emit('back', key)"
      >{{ words[key] }}<hint>{{ `Back to what ${host} does` }}</hint></v-chip
    >
  </p>
</template>

<style scoped>
.own {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 6px;
  margin: 4px 0 0;
  font-size: 13px;
}
</style>
