<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, defineAsyncComponent } from 'vue';
import type { Cause, ClickCause } from '#core/reconcile';
import type { BridgeView } from '#core/queries';
import { count } from '../theme/formats.ts';
import { drawn, stepsOf } from './bridge.ts';
import { pieceWords } from './words.ts';

// The library that draws is loaded where something is drawn.
const BridgeBars = defineAsyncComponent(() => import('./BridgeBars.vue'));

/** From ours to theirs, a step for each cause: drawn, and said in words beneath each bar. */
const props = defineProps<{
  bridge: BridgeView<Cause | ClickCause>;
  /** Writes a value of the bridge. */
  write: (value: number) => string;
  about: string;
}>();
const emit = defineEmits<{ open: [cause: Cause | ClickCause] }>();

const steps = computed(() =>
  stepsOf(props.bridge).map((step) => {
    const [name, tone] = pieceWords(step.cause);
    return { ...step, name, tone };
  }),
);
const picture = computed(() => drawn(props.bridge, steps.value, pieceWords));
const columns = computed(() => ({ '--columns': steps.value.length + 2 }));
const signed = (value: number) =>
  `${value > 0 ? '+' : value < 0 ? '\u2212' : ''}${props.write(Math.abs(value))}`;
/** A bar was pressed: ours is the first, and theirs comes after the steps. */
const press = (place: number) => {
  const step = steps.value[place - 1];
  if (step) emit('open', step.cause);
};
</script>

<template>
  <div v-if="steps.length > 0" class="chart" :style="columns">
    <bridge-bars class="bars" aria-hidden="true" v-bind="picture" @press="press" />
    <div class="words" role="table" :aria-label="`What explains the difference of ${about}`">
      <div role="row" class="fern">
        <span role="rowheader"><i />ours</span
        ><span role="cell" class="visually-hidden">{{ write(bridge.ours) }}</span>
      </div>
      <div v-for="step in steps" :key="step.cause" role="row" :class="step.tone">
        <span role="rowheader"
          ><i /><text-link @click="emit('open', step.cause)">
            {{ step.name }} <b>{{ signed(step.value) }}</b><hint>{{
              `${count(step.count)} records. Show them`
            }}</hint>
          </text-link></span
        ><span role="cell" class="visually-hidden">{{ count(step.count) }} records</span>
      </div>
      <div role="row" class="slate">
        <span role="rowheader"><i />theirs</span
        ><span role="cell" class="visually-hidden">{{ write(bridge.theirs) }}</span>
      </div>
    </div>
  </div>
  <p v-else class="quiet">Nothing lies between.</p>
</template>

<style scoped>
.chart {
  max-width: calc(var(--columns) * 112px);
}
.bars {
  height: 46px;
}
.words {
  display: grid;
  grid-template-columns: repeat(var(--columns), minmax(0, 1fr));
  font-size: 12px;
  line-height: 1.25;
  text-align: center;
  color: var(--ink-two);
}
.words > div {
  padding: 0 2px;
}
/* The bars above stand for it, where they are shown. */
i {
  display: none;
}
.words .text-link {
  font-size: inherit;
  color: inherit;
}
b {
  display: block;
  font-weight: 500;
  white-space: nowrap;
}
.words .text-link:hover {
  color: var(--ink);
}
.fern i {
  background: var(--fern);
}
.slate i {
  background: var(--slate);
}
.copper i {
  background: var(--copper);
}
.plum i {
  background: var(--plum);
}
.sand i {
  background: repeating-linear-gradient(
    135deg,
    var(--sand) 0 3px,
    color-mix(in srgb, var(--sand) 60%, var(--surface)) 3px 5px
  );
}
p {
  margin: 0;
}
/* Bars would be narrower than their words: the words stand below each other, with the colour beside them. */
@media (max-width: 760px) {
  .bars {
    display: none;
  }
  .words {
    grid-template-columns: 1fr;
    gap: 3px;
    font-size: 13px;
    text-align: left;
  }
  i {
    display: inline-block;
    width: 10px;
    height: 10px;
    margin-right: 7px;
    border-radius: var(--leaf-tile);
  }
  b {
    display: inline;
  }
  /* What both sides count stands above it. */
  .words > div:first-child,
  .words > div:last-child {
    display: none;
  }
}
</style>
