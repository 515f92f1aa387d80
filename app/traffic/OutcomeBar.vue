<script setup lang="ts">
import { computed } from 'vue';
import type { Traffic } from '#core/queries';
import type { Outcome } from '#core/visits';
import { count, percent } from '../theme/formats.ts';
import Hint from '../theme/Hint.vue';
import { changeFrom, changeWords } from './trafficColumns.ts';
import { outcomeWords } from './words.ts';

/** All requests of what is asked, in the parts that became of them: what counts, and what does not. Each shows its own days when pressed. */
const props = defineProps<{ traffic: Traffic; show: Outcome }>();
const emit = defineEmits<{ show: [outcome: Outcome] }>();
interface Part {
  readonly name: string;
  readonly hint: string;
  readonly requests: number;
  readonly under: string;
  readonly counts: boolean;
  readonly outcome: Outcome;
}
const others = ['repeat', 'bot', 'prefetch', 'not redirected', 'test'] as const satisfies Outcome[];
const all = computed(() => Object.values(props.traffic.whole.requests).reduce((sum, n) => sum + n, 0));
const share = (n: number): string => (all.value === 0 ? '' : percent(n / all.value));
const parts = computed((): Part[] => {
  const { requests, visitors, visitorsBefore } = props.traffic.whole;
  const isCompared = props.traffic.knownSince === undefined;
  const change = isCompared ? changeWords(changeFrom(visitorsBefore, visitors), visitors) : '';
  return [
    {
      name: 'Visitors',
      hint: 'People, each once a day, and the change against as many days before.',
      requests: visitors,
      under: change,
      counts: true,
      outcome: 'counted',
    },
    {
      name: 'Came again',
      hint: 'Counted visits of somebody who had come the same day: to another link, or later.',
      requests: requests.counted - visitors,
      under: 'same day',
      counts: true,
      outcome: 'counted',
    },
    ...others.map((outcome) => ({
      ...outcomeWords[outcome],
      requests: requests[outcome],
      under: share(requests[outcome]),
      counts: false,
      outcome,
    })),
  ];
});
const pressed = (part: Part): boolean => part.outcome === props.show && part.name !== 'Came again';
</script>

<template>
  <ul class="bar" aria-label="What became of all requests">
    <li
      v-for="part in parts"
      v-show="part.requests > 0 || part.counts || pressed(part)"
      :key="part.name"
      :class="{ counts: part.counts }"
      :style="{ flexGrow: part.requests }"
    >
      <text-link
        class="part"
        :aria-pressed="pressed(part)"
        @click="emit('show', pressed(part) ? 'counted' : part.outcome)"
      >
        <span>{{ part.name }}</span>
        <b>{{ count(part.requests) }}</b>
        <small>{{ part.under }}</small>
        <hint>{{ part.hint }}</hint>
      </text-link>
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
.part {
  box-sizing: border-box;
  width: 100%;
  padding: 8px 10px;
  color: var(--ink);
  font-size: 12px;
  border-radius: inherit;
}
.part :deep(.v-btn__content) {
  display: grid;
  justify-content: start;
  text-align: start;
  white-space: nowrap;
}
.part[aria-pressed='true'] {
  box-shadow: inset 0 -3px 0 var(--ink-two);
}
.counts .part[aria-pressed='true'] {
  box-shadow: inset 0 -3px 0 var(--fern);
}
b {
  font-size: 17px;
  font-variant-numeric: tabular-nums;
}
.counts:first-child b {
  color: var(--fern);
}
small {
  font-size: 12px;
  min-height: 1.4em;
}
</style>
