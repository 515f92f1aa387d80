<script setup lang="ts">
import { computed } from 'vue';
import type { TrafficFigures } from '#core/queries';
import type { Outcome } from '#core/visits';
import { count } from '../theme/formats.ts';
import Hint from '../theme/Hint.vue';
import { outcomeWords } from './words.ts';

/** All requests of what is shown, in the parts that became of them: what counts, and what does not. */
const props = defineProps<{ figures: TrafficFigures }>();
interface Part {
  readonly name: string;
  readonly hint: string;
  readonly requests: number;
  readonly under: string;
  readonly counts: boolean;
}
const others = ['repeat', 'bot', 'prefetch', 'not redirected', 'test'] as const satisfies Outcome[];
const all = computed(() => Object.values(props.figures.requests).reduce((sum, n) => sum + n, 0));
const share = (n: number): string =>
  all.value === 0
    ? ''
    : `${((100 * n) / all.value).toLocaleString(undefined, { maximumFractionDigits: 1 })} %`;
const parts = computed((): Part[] => {
  const { requests, visitors } = props.figures;
  return [
    {
      name: 'Visitors',
      hint: 'People, each once a day.',
      requests: visitors,
      under: share(visitors),
      counts: true,
    },
    {
      name: 'Came again',
      hint: 'Counted visits of somebody who had come the same day: to another link, or later.',
      requests: requests.counted - visitors,
      under: 'same day',
      counts: true,
    },
    ...others.map((outcome) => ({
      ...outcomeWords[outcome],
      requests: requests[outcome],
      under: share(requests[outcome]),
      counts: false,
    })),
  ];
});
</script>

<template>
  <ul class="bar" aria-label="What became of all requests">
    <li
      v-for="part in parts"
      v-show="part.requests > 0 || part.counts"
      :key="part.name"
      :class="{ counts: part.counts }"
      :style="{ flexGrow: part.requests }"
    >
      <span>{{ part.name }}</span>
      <b>{{ count(part.requests) }}</b>
      <small>{{ part.under }}</small>
      <hint>{{ part.hint }}</hint>
    </li>
  </ul>
</template>

<style scoped>
.bar {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
  margin: 0 0 14px;
  padding: 0;
  list-style: none;
}
li {
  flex: 1 0 84px;
  display: grid;
  padding: 8px 10px;
  font-size: 12px;
  border-radius: var(--leaf-card);
  background: repeating-linear-gradient(
    -45deg,
    color-mix(in srgb, var(--sand) 32%, transparent) 0 6px,
    color-mix(in srgb, var(--sand) 18%, transparent) 6px 12px
  );
}
.counts {
  background: var(--fern-soft);
}
b {
  font-size: 17px;
  font-variant-numeric: tabular-nums;
}
.counts:first-child b {
  color: var(--fern);
}
</style>
