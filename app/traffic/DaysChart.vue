<script setup lang="ts">
import type { ApexOptions } from 'apexcharts';
import { computed, onMounted, onUnmounted, ref, useTemplateRef } from 'vue';
import { useTheme } from 'vuetify';
import VueApexCharts from 'vue3-apexcharts';
import type { Traffic } from '#core/queries';
import type { Outcome } from '#core/visits';
import { chartAsSvg } from './chartFile.ts';
import { outcomeWords } from './words.ts';

/** The days: stacked by what became of requests, or what is shown over the days before. Some of them are chosen by drawing over them. */
const props = defineProps<{
  traffic: Traffic;
  show: Outcome;
  way: 'outcomes' | 'compared';
  /** What was done on some of the days. */
  changes: readonly { readonly day: string; readonly words: string; readonly isFrequent?: boolean }[];
}>();
const emit = defineEmits<{ brush: [from: string, to: string] }>();
const theme = useTheme();
const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';
const height = 176;
const momentOfDay = (day: string): number => Date.parse(`${day}T00:00Z`);
const dayMs = 86_400_000;

/** In the order in which they are stacked, the counted ones at the foot. */
const stacked: readonly Outcome[] = ['counted', 'repeat', 'bot', 'prefetch', 'not redirected', 'test'];
const parts = computed(() =>
  stacked.filter((outcome) => props.traffic.outcomeDays[outcome].some((n) => n > 0)),
);
const points = (list: readonly number[]) =>
  props.traffic.days.map((day, i) => ({ x: momentOfDay(day), y: list[i] ?? 0 }));
const series = computed(() =>
  props.way === 'outcomes'
    ? parts.value.map((outcome) => ({
        name: outcomeWords[outcome].name,
        data: points(props.traffic.outcomeDays[outcome]),
      }))
    : [
        { name: 'These days', data: points(props.traffic.whole.days) },
        { name: 'As many days before', data: points(props.traffic.whole.daysBefore) },
      ],
);
const colorOf = (tone: string): string => String(theme.current.value.colors[tone] ?? '');
const outcomeTones: Readonly<Record<Outcome, string>> = {
  counted: 'fern',
  repeat: 'sand',
  bot: 'copper',
  prefetch: 'line',
  'not redirected': 'plum',
  test: 'slate',
};
const colors = computed(() =>
  (props.way === 'outcomes' ? parts.value.map((outcome) => outcomeTones[outcome]) : ['fern', 'sand']).map(
    colorOf,
  ),
);
/** About as wide as a letter of a label, and as what stands beside the days. */
const [letterWidth, besideDays] = [5.8, 55];
const frame = useTemplateRef('frame');
const frameWidth = ref(0);
const observer = new ResizeObserver(([entry]) => (frameWidth.value = entry?.contentRect.width ?? 0));
onMounted(() => frame.value && observer.observe(frame.value));
onUnmounted(() => observer.disconnect());
const drawnWidth = computed(() => Math.max(200, frameWidth.value - besideDays));
/** What was done, in two lines so that words do not lie over each other; mailings are named in the first alone, where there is room. */
const labels = computed(() => {
  const perDay = drawnWidth.value / props.traffic.days.length;
  const ends = [-Infinity, -Infinity];
  return props.changes.map(({ day, words, isFrequent }) => {
    const width = words.length * letterWidth;
    const at = props.traffic.days.indexOf(day) * perDay;
    const isLate = at + width > drawnWidth.value;
    const from = isLate ? at - width : at;
    const free = ends.findIndex((end, i) => end <= from && !(isFrequent && i > 0));
    const line = Math.max(0, free);
    if (free < 0 && isFrequent) return { day, words: '', line, isLate };
    ends[line] = from + width + letterWidth;
    return { day, words, line, isLate };
  });
});
const inkColor = (): string =>
  `rgb(${getComputedStyle(document.documentElement).getPropertyValue('--v-theme-ink-two')})`;
const options = computed((): ApexOptions => {
  const ink = inkColor();
  const isStacked = props.way === 'outcomes';
  return {
    chart: {
      type: isStacked ? 'bar' : 'line',
      nonce,
      stacked: isStacked,
      animations: { enabled: false },
      toolbar: { show: false },
      zoom: { enabled: true, type: 'x' },
      fontFamily: 'inherit',
      foreColor: ink,
      events: {
        beforeZoom: (_chart: unknown, { xaxis }: { xaxis: { min: number; max: number } }) => {
          // A day is chosen where most of it was drawn over.
          const days = props.traffic.days.filter((day) => {
            const at = momentOfDay(day);
            return at + dayMs / 2 >= xaxis.min && at <= xaxis.max;
          });
          const [from] = days;
          const to = days.at(-1);
          if (from !== undefined && to !== undefined) emit('brush', from, to);
          return { xaxis: {} };
        },
      },
    },
    colors: colors.value,
    // What does not count is striped, so that it is told without colour too.
    fill: isStacked
      ? {
          type: parts.value.map((outcome) => (outcome === 'counted' ? 'solid' : 'pattern')),
          pattern: {
            style: parts.value.map((outcome) => (outcome === 'bot' ? 'verticalLines' : 'slantedLines')),
            width: 5,
            height: 5,
            strokeWidth: 3,
          },
        }
      : { type: 'solid' },
    stroke: isStacked ? { width: 0 } : { width: [2.5, 2], curve: 'straight', dashArray: [0, 5] },
    plotOptions: { bar: { columnWidth: '82%' } },
    dataLabels: { enabled: false },
    annotations: {
      xaxis: labels.value.map(({ day, words, line, isLate }) => ({
        x: momentOfDay(day),
        borderColor: ink,
        strokeDashArray: 3,
        label: {
          text: words,
          orientation: 'horizontal',
          textAnchor: isLate ? 'end' : 'start',
          offsetY: 2 + line * 18,
          borderWidth: 0,
          style: { background: colorOf('surface'), color: ink, fontSize: '12px' },
        },
      })),
    },
    grid: { borderColor: colorOf('line'), padding: { top: -14, left: 4, right: 4 } },
    legend: { position: 'top', horizontalAlign: 'left', fontSize: '12px' },
    xaxis: {
      type: 'datetime',
      labels: { datetimeUTC: true, format: 'd MMM', style: { fontSize: '12px' } },
      tooltip: { enabled: false },
    },
    yaxis: {
      labels: { formatter: (n: number) => Math.round(n).toLocaleString(), style: { fontSize: '12px' } },
      forceNiceScale: true,
      min: 0,
    },
    tooltip: { shared: true, intersect: false, x: { format: 'ddd d MMM' } },
  };
});
/** The days as they are drawn, as a file. */
const asSvg = (title: string): string | undefined => {
  const svg = frame.value?.querySelector<SVGSVGElement>('svg.apexcharts-svg');
  return svg
    ? chartAsSvg(svg, {
        title,
        legend: series.value.map(({ name }, i) => ({ words: name, color: colors.value[i] ?? '' })),
        ink: inkColor(),
        paper: colorOf('surface'),
      })
    : undefined;
};
defineExpose({ asSvg });
/** A chart is made anew where it is another kind of chart. */
const kind = computed(
  () => `${props.way} ${parts.value.join()} ${props.changes.map(({ words }) => words).join()}`,
);
</script>

<template>
  <div ref="frame" :style="{ minHeight: `${height}px` }">
    <vue-apex-charts
      v-if="frameWidth > 0"
      :key="kind"
      :type="way === 'outcomes' ? 'bar' : 'line'"
      :height="height"
      width="100%"
      :options="options"
      :series="series"
    />
  </div>
</template>
