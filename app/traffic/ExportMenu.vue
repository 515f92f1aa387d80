<script setup lang="ts">
import type { RequestForm, TrafficQuestion } from '#core/queries';
import { journalWorker } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { svgAsPng } from './chartFile.ts';
import type { Line, TrafficColumn } from './trafficColumns.ts';
import { trafficCsv } from './trafficColumns.ts';

/** What is shown, or the requests behind it, as files. */
const props = defineProps<{
  question: TrafficQuestion;
  columns: readonly TrafficColumn[];
  lines: readonly Line[];
  /** Not all of the rows' figures are known yet. */
  isPart: boolean;
  /** The days as an SVG file; undefined where they are not drawn. */
  drawDays?: (() => string | undefined) | undefined;
}>();
const named = (what: string, form: string): string =>
  `${what}-${props.question.from}-${props.question.to}.${form}`;
const saveRows = () =>
  saveFile(
    named(`traffic-by-${props.question.by}`, 'csv'),
    'text/csv',
    trafficCsv(props.columns, props.lines),
  );
const saveRequests = async (form: RequestForm) => {
  const { from, to, where } = props.question;
  const asked = { from, to, where: JSON.parse(JSON.stringify(where)) as typeof where }; // as it was
  const file = await journalWorker.requestFile(asked, form);
  const type = form === 'parquet' ? 'application/vnd.apache.parquet' : 'application/x-ndjson';
  saveFile(named('requests', form), type, file);
};
const saveDays = async (form: 'svg' | 'png') => {
  const svg = props.drawDays?.();
  if (svg === undefined) return;
  if (form === 'svg') saveFile(named('days', 'svg'), 'image/svg+xml', svg);
  else saveFile(named('days', 'png'), 'image/png', await svgAsPng(svg));
};
</script>

<template>
  <v-menu location="bottom end">
    <template #activator="{ props: opens }"><text-link v-bind="opens">Export</text-link></template>
    <v-list class="small-menu" density="compact">
      <v-list-item title="These rows as CSV" :disabled="lines.length === 0 || isPart" @click="saveRows" />
      <template v-if="drawDays">
        <v-list-item title="The days as SVG" @click="saveDays('svg')" />
        <v-list-item title="The days as PNG" @click="saveDays('png')" />
      </template>
      <v-list-item title="The requests as NDJSON" @click="saveRequests('ndjson')" />
      <v-list-item title="The requests as Parquet" @click="saveRequests('parquet')" />
    </v-list>
  </v-menu>
</template>
