<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed } from 'vue';
import type { DateOrder, ReportProfile, ReportRole } from '#core/catalogue';
import { reportRoles, element } from '#core/catalogue';
import type { ReportQuestion } from '#core/conversions';
import type { OpenedFile } from './report.worker.ts';

/** How a report is read: what each column holds, the order of its dates, its decimals, its zone. */
const props = defineProps<{
  opened: OpenedFile;
  profile: ReportProfile;
  asks: readonly ReportQuestion[];
}>();
const emit = defineEmits<{
  correct: [said: Partial<ReportProfile>, answered: ReportQuestion | 'zone'];
  role: [name: string, role: ReportRole];
  heading: [line: number];
}>();

const roleWords: Readonly<Record<ReportRole, string>> = {
  txn: 'transaction',
  click: 'click ID',
  program: 'program',
  event: 'event',
  status: 'state',
  amount: 'commission',
  currency: 'currency',
  at: 'date',
  time: 'time of day',
  clicks: 'clicks',
  label: 'label',
  coupon: 'coupon code',
  nothing: 'left out',
};
const orders: readonly { value: DateOrder; title: string }[] = [
  { value: 'dmy', title: 'day, month, year' },
  { value: 'mdy', title: 'month, day, year' },
  { value: 'ymd', title: 'year, month, day' },
];
const decimals = [
  { value: '.', title: 'point' },
  { value: ',', title: 'comma' },
] as const;
const roleItems = reportRoles.map((value) => ({ value, title: roleWords[value] }));
const before = computed(() => props.opened.aside.filter(({ why }) => why === 'before the heading'));
const after = computed(() => props.opened.aside.filter(({ why }) => why !== 'before the heading'));
const setHeading = (event: Event) => {
  const line = Number(event.target instanceof HTMLInputElement ? event.target.value : '');
  if (Number.isInteger(line) && line >= 0) emit('heading', line);
};
const everyZone = Intl.supportedValuesOf('timeZone');
const zones = computed(() =>
  everyZone.includes(props.profile.zone) ? everyZone : [...everyZone, props.profile.zone],
);
</script>

<template>
  <section aria-label="How it is read">
    <p v-for="line in before" :key="line.line" class="quiet aside mono">
      {{ line.line }}: {{ line.cells.filter(Boolean).join(' · ') }}
    </p>
    <div class="wide">
      <small-table>
        <thead>
          <tr>
            <th v-for="name in opened.header" :key="name" scope="col">
              {{ name }}
              <v-select
                single-line
                class="small-field"
                :items="roleItems"
                :model-value="profile.columns[name] ?? null"
                :aria-label="`What ${name} holds`"
                @update:model-value="$event && emit('role', name, $event)"
              />
              <span class="quiet why">{{ opened.reading.why[name] ?? '' }}</span>
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in opened.sample" :key="i">
            <td
              v-for="(cell, n) in row"
              :key="n"
              class="mono"
              :class="{ out: profile.columns[element(opened.header[n])] === 'nothing' }"
            >
              {{ cell }}
            </td>
          </tr>
        </tbody>
      </small-table>
    </div>
    <p v-for="line in after" :key="line.line" class="quiet aside">
      Line {{ line.line }} is {{ line.why }} and left out:
      <span class="mono">{{ line.cells.filter(Boolean).join(' · ') }}</span>
    </p>
    <p v-if="opened.asideCount > opened.aside.length" class="quiet aside">
      and {{ opened.asideCount - opened.aside.length }} more lines that are no rows
    </p>
    <p class="how">
      <span v-if="!opened.format.startsWith('JSON')"
        >Heading on line
        <v-number-input
          class="small-field line"
          :min="0"
          :model-value="opened.headerLine"
          aria-label="Heading on line"
          @change="setHeading"
        /><hint>0 where the file has no heading</hint></span
      >
      <span :class="{ asked: asks.includes('dates') }"
        >Dates
        <v-select
          single-line
          class="small-field"
          :items="orders"
          :model-value="asks.includes('dates') ? null : profile.dates"
          aria-label="Dates"
          placeholder="choose"
          @update:model-value="emit('correct', { dates: $event }, 'dates')"
      /></span>
      <span :class="{ asked: asks.includes('decimal') }"
        >Before the decimals
        <v-select
          single-line
          class="small-field"
          :items="decimals"
          :model-value="asks.includes('decimal') ? null : profile.decimal"
          aria-label="Before the decimals"
          placeholder="choose"
          @update:model-value="emit('correct', { decimal: $event }, 'decimal')"
      /></span>
      <span
        >Zone
        <v-autocomplete
          single-line
          class="small-field"
          :items="zones"
          :model-value="profile.zone"
          aria-label="Zone"
          @update:model-value="$event && emit('correct', { zone: $event }, 'zone')"
      /></span>
    </p>
    <p :class="asks.includes('dates') ? 'bad' : 'quiet'" role="status">
      {{ opened.reading.because }}
    </p>
  </section>
</template>

<style scoped>
.wide {
  overflow-x: auto;
}
th,
td {
  max-width: 260px;
  padding: 4px 12px 4px 0;
  overflow: hidden;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 1px solid var(--line);
}
th {
  font-weight: 600;
}
th .v-input {
  display: grid;
  /* Whole words, however narrow what stands below. */
  min-width: 136px;
}
.aside {
  margin: 2px 0;
  font-size: 13px;
  overflow-wrap: anywhere;
}
.line {
  width: 64px;
}
.why {
  display: block;
  min-height: 18px;
  font-size: 12px;
  font-weight: 400;
}
.how .v-input {
  max-width: 220px;
}
.out {
  color: var(--ink-two);
}
.how {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  margin: 10px 0 4px;
}
.asked {
  padding: 2px 8px;
  background: var(--copper-soft);
  border-radius: 8px 2px;
}
.bad {
  color: var(--copper);
}
</style>
