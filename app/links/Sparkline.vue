<script setup lang="ts">
import { computed } from 'vue';

/** Counted visitors by day as a small line; the numbers themselves are in the label. */
const props = defineProps<{ days: readonly number[] }>();
const width = 62;
const height = 20;
const points = computed(() => {
  const most = Math.max(1, ...props.days);
  const step = width / Math.max(1, props.days.length - 1);
  return props.days
    .map((n, i) => `${(i * step).toFixed(1)},${(height - 2 - (n / most) * (height - 5)).toFixed(1)}`)
    .join(' ');
});
</script>

<template>
  <svg :width="width" :height="height" role="img" :aria-label="`Visits by day: ${days.join(', ')}`">
    <polyline :points="points" fill="none" stroke="var(--fern)" stroke-width="1.4" stroke-linejoin="round" />
  </svg>
</template>
