<script setup lang="ts">
import { computed } from 'vue';

/** A leaf for each day, as high as what came that day; all strips of a table are of one scale where `most` is given. */
const props = defineProps<{ days: readonly number[]; most?: number; label: string }>();
const [width, height, gap] = [10, 24, 1];
/** A day without anything is a line, so that it is seen to be there. */
const least = 1.5;
const top = computed(() => Math.max(1, props.most ?? 0, ...props.days));
/** Two opposite corners round, two nearly square. */
const leaf = (left: number, high: number): string => {
  const right = left + width - gap;
  const round = Math.min(5, high);
  const from = height - high;
  return `M${left} ${height}V${from + round}Q${left} ${from} ${left + round} ${from}H${right}V${height}Z`;
};
const path = computed(() =>
  props.days.map((n, i) => leaf(i * width, Math.max(least, (n / top.value) * height))).join(''),
);
</script>

<template>
  <!-- Drawn by hand: a chart of the library for each row of a table would be a hundred of them. -->
  <svg
    class="strip"
    :viewBox="`0 0 ${Math.max(1, days.length) * width} ${height}`"
    preserveAspectRatio="none"
    role="img"
    :aria-label="label"
  >
    <path :d="path" />
  </svg>
</template>

<style scoped>
.strip {
  display: block;
  width: 100%;
  height: 24px;
  fill: var(--fern);
}
</style>
