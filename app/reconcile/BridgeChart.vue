<script setup lang="ts">
import { scaleLinear } from 'd3-scale';
import { computed } from 'vue';
import type { Cause, ClickCause } from '#core/reconcile';
import type { BridgeView } from '#core/queries';
import { pieceWords } from './words.ts';

/** From ours to theirs, a step for each cause. What is drawn is said in words beneath each step. */
const props = defineProps<{
  bridge: BridgeView<Cause | ClickCause>;
  /** Writes a value of the bridge. */
  write: (value: number) => string;
  about: string;
}>();
const emit = defineEmits<{ open: [cause: Cause | ClickCause] }>();

const height = 40;

const steps = computed(() => {
  let at = props.bridge.ours;
  // What comes to nothing explains nothing.
  const pieces = props.bridge.pieces.filter(({ value }) => value !== 0);
  return pieces.map((piece) => {
    const from = at;
    at += piece.value;
    const [name, tone] = pieceWords(piece.cause);
    return { ...piece, from, to: at, name, tone };
  });
});
/** Where a running total stands, in pixels from the top; the foot of the drawing is cut off below the lowest. */
const level = computed(() => {
  const totals = [props.bridge.ours, props.bridge.theirs, ...steps.value.map((step) => step.to)];
  const [low, high] = [Math.min(...totals), Math.max(...totals)];
  return scaleLinear()
    .domain([low - Math.max(1, high - low) * 0.25, high])
    .range([height, 0]);
});
const block = (from: number, to: number) => {
  const top = level.value(Math.max(from, to));
  return { top: `${top}px`, height: `${Math.max(2, level.value(Math.min(from, to)) - top)}px` };
};
const whole = (total: number) => {
  const top = level.value(total);
  return { top: `${top}px`, height: `${height - top}px` };
};
const signed = (value: number) =>
  `${value > 0 ? '+' : value < 0 ? '\u2212' : ''}${props.write(Math.abs(value))}`;
</script>

<template>
  <div class="chart">
    <ul v-if="steps.length > 0" :aria-label="`What explains the difference of ${about}`">
      <li class="fern" aria-hidden="true">
        <span class="room"><i :style="whole(bridge.ours)" /></span><span>ours</span>
      </li>
      <li v-for="step in steps" :key="step.cause">
        <button
          type="button"
          :class="step.tone"
          :title="`${step.count} records. Show them`"
          @click="emit('open', step.cause)"
        >
          <span class="room" aria-hidden="true"><i :style="block(step.from, step.to)" /></span>
          <span>{{ step.name }} {{ signed(step.value) }}</span>
        </button>
      </li>
      <li class="slate" aria-hidden="true">
        <span class="room"><i :style="whole(bridge.theirs)" /></span><span>theirs</span>
      </li>
    </ul>
    <p v-else class="quiet">Nothing lies between.</p>
  </div>
</template>

<style scoped>
ul {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
button {
  all: unset;
  cursor: pointer;
  display: block;
  font-size: 12px;
  color: var(--ink-two);
  white-space: nowrap;
}
button:hover {
  color: var(--ink);
  text-decoration: underline;
}
button:focus-visible {
  outline: 2px solid var(--fern);
}
.room {
  position: relative;
  display: block;
  height: 40px;
}
i {
  position: absolute;
  right: 0;
  left: 0;
  border-radius: var(--leaf-tile);
  background: var(--tone);
}
.fern,
.slate {
  font-size: 12px;
  color: var(--ink-two);
}
.fern {
  --tone: var(--fern);
}
.sand i {
  background: repeating-linear-gradient(
    135deg,
    var(--sand) 0 4px,
    color-mix(in srgb, var(--sand) 60%, var(--surface)) 4px 7px
  );
}
.slate {
  --tone: var(--slate);
}
.plum {
  --tone: var(--plum);
}
.copper {
  --tone: var(--copper);
}
p {
  margin: 0;
}
</style>
