<script setup lang="ts" generic="K extends string">
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
      :title="`Back to what ${host} does`"
      :aria-label="`${words[key]}: back to what ${host} does`"
      @click="emit('back', key)"
      >{{ words[key] }}</v-chip
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
