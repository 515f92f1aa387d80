<script setup lang="ts">
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
const orders: readonly (readonly [DateOrder, string])[] = [
  ['dmy', 'day, month, year'],
  ['mdy', 'month, day, year'],
  ['ymd', 'year, month, day'],
];
const value = (event: Event) => (event.target instanceof HTMLSelectElement ? event.target.value : '');
const isRole = (text: string): text is ReportRole => (reportRoles as readonly string[]).includes(text);
const setRole = (name: string, event: Event) => {
  const role = value(event);
  if (isRole(role)) emit('role', name, role);
};
const setOrder = (event: Event) => {
  const order = orders.find(([one]) => one === value(event))?.[0];
  if (order) emit('correct', { dates: order }, 'dates');
};
const setDecimal = (event: Event) =>
  emit('correct', { decimal: value(event) === ',' ? ',' : '.' }, 'decimal');
const before = computed(() => props.opened.aside.filter(({ why }) => why === 'before the heading'));
const after = computed(() => props.opened.aside.filter(({ why }) => why !== 'before the heading'));
const setHeading = (event: Event) => {
  const line = Number(event.target instanceof HTMLInputElement ? event.target.value : '');
  if (Number.isInteger(line) && line >= 0) emit('heading', line);
};
const zones = Intl.supportedValuesOf('timeZone');
</script>

<template>
  <section aria-label="How it is read">
    <p v-for="line in before" :key="line.line" class="quiet aside mono">
      {{ line.line }}: {{ line.cells.filter(Boolean).join(' · ') }}
    </p>
    <div class="wide">
      <table>
        <thead>
          <tr>
            <th v-for="name in opened.header" :key="name" scope="col">
              {{ name }}
              <select
                class="small-field"
                :value="profile.columns[name]"
                :aria-label="`What ${name} holds`"
                @change="setRole(name, $event)"
              >
                <option v-for="role in reportRoles" :key="role" :value="role">{{ roleWords[role] }}</option>
              </select>
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
      </table>
    </div>
    <p v-for="line in after" :key="line.line" class="quiet aside">
      Line {{ line.line }} is {{ line.why }} and left out:
      <span class="mono">{{ line.cells.filter(Boolean).join(' · ') }}</span>
    </p>
    <p v-if="opened.asideCount > opened.aside.length" class="quiet aside">
      and {{ opened.asideCount - opened.aside.length }} more lines that are no rows
    </p>
    <p class="how">
      <label v-if="!opened.format.startsWith('JSON')"
        >Heading on line
        <input
          class="small-field line"
          type="number"
          min="0"
          :value="opened.headerLine"
          title="0 where the file has no heading"
          @change="setHeading"
      /></label>
      <label :class="{ asked: asks.includes('dates') }"
        >Dates
        <select class="small-field" :value="asks.includes('dates') ? '' : profile.dates" @change="setOrder">
          <option v-if="asks.includes('dates')" value="" disabled>choose</option>
          <option v-for="[order, words] in orders" :key="order" :value="order">{{ words }}</option>
        </select></label
      >
      <label :class="{ asked: asks.includes('decimal') }"
        >Before the decimals
        <select
          class="small-field"
          :value="asks.includes('decimal') ? '' : profile.decimal"
          @change="setDecimal"
        >
          <option v-if="asks.includes('decimal')" value="" disabled>choose</option>
          <option value=".">point</option>
          <option value=",">comma</option>
        </select></label
      >
      <label
        >Zone
        <select
          class="small-field"
          :value="profile.zone"
          @change="emit('correct', { zone: value($event) }, 'zone')"
        >
          <option v-for="zone in zones" :key="zone">{{ zone }}</option>
          <option v-if="!zones.includes(profile.zone)">{{ profile.zone }}</option>
        </select></label
      >
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
th select {
  display: block;
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
select {
  max-width: 200px;
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
