<script setup lang="ts">
import type { ApexOptions } from 'apexcharts';
import { computed } from 'vue';
import { useTheme } from 'vuetify';
import VueApexCharts from 'vue3-apexcharts';
import type { Drawn } from './bridge.ts';

/** The bars of a bridge. What they show is said in words beside them. */
const props = defineProps<{ blocks: readonly Drawn[]; low: number; high: number }>();
/** A bar was pressed, by its place. */
const emit = defineEmits<{ press: [place: number] }>();

const theme = useTheme();
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
const height = 46;
const colorOf = (tone: string) => theme.current.value.colors[tone] ?? theme.current.value.colors.primary;

const series = computed(() => [
  {
    data: props.blocks.map(({ name, tone, span }) => ({
      x: name,
      y: [...span],
      fillColor: colorOf(tone),
      // What does not count is striped, so that it is told without colour too.
      ...(tone === 'sand' && {
        fill: { type: 'pattern', pattern: { style: 'verticalLines', width: 6, height: 6, strokeWidth: 3 } },
      }),
    })),
  },
]);
const options = computed((): ApexOptions => ({
  chart: {
    type: 'rangeBar',
    nonce,
    sparkline: { enabled: true },
    parentHeightOffset: 0,
    animations: { enabled: false },
    events: {
      dataPointSelection: (_event, _chart, { dataPointIndex }: { dataPointIndex: number }) =>
        emit('press', dataPointIndex),
    },
  },
  plotOptions: { bar: { horizontal: false, columnWidth: '72%', borderRadius: 2 } },
  states: { active: { filter: { type: 'none' } }, hover: { filter: { type: 'none' } } },
  yaxis: { min: props.low, max: props.high },
  tooltip: { enabled: false },
  legend: { show: false },
  dataLabels: { enabled: false },
}));
</script>

<template>
  <vue-apex-charts type="rangeBar" :height="height" width="100%" :options="options" :series="series" />
</template>
