<script setup lang="ts">
import type { ApexOptions } from 'apexcharts';
import { computed } from 'vue';
import { useTheme } from 'vuetify';
import VueApexCharts from 'vue3-apexcharts';
import type { ProfitByDay } from '#core/queries';
import { exponentOf } from '#core/values';
import { money } from '../theme/formats.ts';
import { wholeMoney } from './words.ts';

/** How a profit came about, with its band: from the first day until each of the days, by what is known now. */
const props = defineProps<{ days: readonly ProfitByDay[]; currency: string }>();
const theme = useTheme();
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
const colorOf = (tone: string): string => String(theme.current.value.colors[tone] ?? '');
const unit = computed(() => 10 ** exponentOf(props.currency));
const momentOfDay = (day: string): number => Date.parse(`${day}T00:00Z`);
/** Where no band is known yet it is as narrow as the line. */
const bandOf = ({ band, visitors, profit }: ProfitByDay): [number, number] =>
  (band && visitors > 0 ? [band.low * visitors, band.high * visitors] : [profit, profit]).map(
    (minor) => minor / unit.value,
  ) as [number, number];
const series = computed(() => [
  {
    name: 'From worst to best',
    type: 'rangeArea',
    data: props.days.map((one) => ({ x: momentOfDay(one.day), y: bandOf(one) })),
  },
  {
    name: 'Profit',
    type: 'line',
    data: props.days.map(({ day, profit }) => ({ x: momentOfDay(day), y: profit / unit.value })),
  },
]);
/** Fern where it earns even at worst, plum where it loses even at best. */
const tone = computed(() => {
  const last = props.days.at(-1);
  const [low, high] = last ? bandOf(last) : [0, 0];
  return low > 0 ? 'fern' : high < 0 ? 'plum' : 'slate';
});
const whole = (units: number): string => wholeMoney(units * unit.value, props.currency);
const options = computed((): ApexOptions => {
  const ink = colorOf('ink-two');
  return {
    chart: {
      type: 'rangeArea',
      nonce,
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: false },
      fontFamily: 'inherit',
      foreColor: ink,
    },
    colors: [colorOf(tone.value), colorOf(tone.value)],
    fill: { opacity: [0.25, 1] },
    stroke: { curve: 'straight', width: [0, 2.5] },
    dataLabels: { enabled: false },
    legend: { show: false },
    annotations: { yaxis: [{ y: 0, borderColor: colorOf('ink'), strokeDashArray: 0 }] },
    grid: { borderColor: colorOf('line'), padding: { top: -18, left: 2, right: 8 } },
    xaxis: {
      type: 'datetime',
      labels: { datetimeUTC: true, format: 'd MMM', style: { fontSize: '12px' } },
      tooltip: { enabled: false },
    },
    yaxis: {
      labels: { formatter: whole, style: { fontSize: '12px' } },
      tickAmount: 3,
    },
    tooltip: {
      shared: true,
      intersect: false,
      custom: ({ dataPointIndex }: { dataPointIndex: number }) => {
        const one = props.days[dataPointIndex];
        if (!one) return '';
        const [low, high] = bandOf(one);
        // Only numbers and days stand in it, so that it can be no markup of anybody.
        return `<div class="profit-tip">${one.day}: ${money(one.profit, props.currency)}<br>${whole(low)} to ${whole(high)}</div>`;
      },
    },
  };
});
</script>

<template>
  <div class="frame">
    <vue-apex-charts type="rangeArea" height="150" width="100%" :options="options" :series="series" />
  </div>
</template>

<style scoped>
.frame {
  min-height: 150px;
}
.frame :deep(.profit-tip) {
  padding: 4px 8px;
  font-size: 12px;
}
</style>
