<script setup lang="ts">
import { computed } from 'vue';
import type { PaysFigures } from '#core/queries';
import { each } from './words.ts';

/**
 * What a visitor leaves at worst, at best and so far, on an axis that all rows of a table share. It is drawn by hand since a chart of the
 * library cannot stand in the rows of a table.
 */
const props = defineProps<{
  figures: Pick<PaysFigures, 'band' | 'profit' | 'visitors'>;
  /** The ends of the axis, in minor units a visitor. */
  axis: readonly [low: number, high: number];
  currency: string;
}>();
const at = (value: number): number => {
  const [low, high] = props.axis;
  return Math.min(100, Math.max(0, ((value - low) / (high - low)) * 100));
};
const kind = computed(() => {
  const { band } = props.figures;
  if (!band) return 'none';
  return band.low > 0 ? 'earns' : band.high < 0 ? 'loses' : 'open';
});
const middle = computed(() => {
  const { profit, visitors } = props.figures;
  return visitors > 0 ? profit / visitors : undefined;
});
/** The side on which all of it lies beyond the axis. */
const beyond = computed(() => {
  const { band } = props.figures;
  if (!band) return undefined;
  return band.high < props.axis[0] ? 'left' : band.low > props.axis[1] ? 'right' : undefined;
});
const words = computed(() => {
  const { band } = props.figures;
  if (!band) return 'not known';
  return `${each(band.low, props.currency)} to ${each(band.high, props.currency)} a visitor`;
});
</script>

<template>
  <div class="axis" role="img" :aria-label="words" :title="words">
    <i class="zero" :style="{ left: `${at(0)}%` }" />
    <template v-if="figures.band">
      <i
        v-if="!beyond"
        class="band"
        :class="[kind, { cut: figures.band.high > axis[1], begun: figures.band.low < axis[0] }]"
        :style="{
          left: `${at(figures.band.low)}%`,
          width: `${Math.max(1, at(figures.band.high) - at(figures.band.low))}%`,
        }"
      />
      <i v-if="beyond" class="beyond" :class="[kind, beyond]" />
      <i v-else-if="middle !== undefined" class="now" :class="kind" :style="{ left: `${at(middle)}%` }" />
    </template>
  </div>
</template>

<style scoped>
.axis {
  position: relative;
  min-height: 30px;
}
i {
  position: absolute;
  top: 50%;
  transform: translateY(-50%);
}
.zero {
  top: 0;
  bottom: 0;
  width: 1px;
  transform: none;
  background: var(--ink);
}
.band {
  height: 13px;
  border-radius: 6px 2px;
}
.band.earns {
  background: color-mix(in srgb, var(--fern) 32%, transparent);
}
.band.loses {
  background: color-mix(in srgb, var(--plum) 38%, transparent);
}
.band.open {
  border: 1px dashed var(--ink-two);
}
.band.cut {
  border-start-end-radius: 0;
  border-end-end-radius: 0;
  border-inline-end-style: none;
}
.band.begun {
  border-start-start-radius: 0;
  border-end-start-radius: 0;
  border-inline-start-style: none;
}
/* An arrow to where it lies. */
.beyond {
  width: 9px;
  height: 16px;
  background: var(--ink-two);
}
.beyond.left {
  left: 0;
  clip-path: polygon(100% 0, 100% 100%, 0 50%);
}
.beyond.right {
  right: 0;
  clip-path: polygon(0 0, 0 100%, 100% 50%);
}
.beyond.loses {
  background: var(--plum);
}
.beyond.earns {
  background: var(--fern);
}
.now {
  width: 4px;
  height: 20px;
  margin-left: -2px;
  border-radius: 2px;
  background: var(--ink-two);
}
.now.earns {
  background: var(--fern);
}
.now.loses {
  background: var(--plum);
}
</style>
