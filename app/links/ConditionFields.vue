<script setup lang="ts">
import { computed } from 'vue';
import type { Conditions } from '#core/catalogue';
import { devices } from '#core/catalogue';
import { countryGroups } from '#core/hop';

/** What has to hold for a branch: one line for each condition, and the ones that can be added. */
const when = defineModel<Conditions>({ required: true });
const props = defineProps<{ zone: string }>();

type Kind = Exclude<keyof Conditions, 'zone'>;
const names: Readonly<Record<Kind, string>> = {
  countries: 'Country',
  devices: 'Device',
  languages: 'Language',
  sources: 'Source',
  visitor: 'New or returning',
  weekdays: 'Weekday',
  hours: 'Time of day',
  days: 'Dates',
};
const fresh: Required<Omit<Conditions, 'zone'>> = {
  countries: ['DE'],
  devices: ['phone'],
  languages: ['de'],
  sources: ['newsletter'],
  visitor: 'new',
  weekdays: [6, 7],
  hours: { from: '18:00', until: '02:00' },
  days: {},
};
const kinds = Object.keys(names) as Kind[]; // the record above has just these keys
const set = computed(() => kinds.filter((kind) => when.value[kind] !== undefined));
const unset = computed(() => kinds.filter((kind) => when.value[kind] === undefined));
const weekdayNames = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const groups = Object.keys(countryGroups).join(', ');

const put = (more: Partial<Conditions>) => (when.value = { ...when.value, ...more });
const add = (kind: Kind) => put({ [kind]: fresh[kind] });
const remove = (kind: Kind) => {
  const rest: Conditions = Object.fromEntries(Object.entries(when.value).filter(([name]) => name !== kind));
  // A zone means something only beside hours and days.
  const { zone: _, ...untimed } = rest;
  when.value = rest.hours || rest.weekdays || rest.days ? rest : untimed;
};
const addChosen = ({ target }: Event) => {
  if (!(target instanceof HTMLSelectElement)) return;
  const kind = kinds.find((name) => name === target.value);
  target.value = '';
  if (kind) add(kind);
};
const words = (text: string) => text.split(/[\s,]+/).filter(Boolean);
const toggle = <T,>(list: readonly T[], item: T): T[] =>
  list.includes(item) ? list.filter((other) => other !== item) : [...list, item];
const timed = computed(() => when.value.hours ?? when.value.weekdays ?? when.value.days);
const value = (event: Event) => (event.target instanceof HTMLInputElement ? event.target.value : '');
const day = (end: 'from' | 'until', text: string) => {
  const { [end]: _, ...rest } = when.value.days ?? {};
  put({ days: text === '' ? rest : { ...rest, [end]: text } });
};
const setZone = (text: string) => {
  const { zone: _, ...rest } = when.value;
  when.value = text.trim() === '' ? rest : { ...rest, zone: text.trim() };
};
</script>

<template>
  <div class="conditions">
    <div v-for="kind in set" :key="kind" class="line">
      <span class="name">{{ names[kind] }}</span>
      <input
        v-if="kind === 'countries'"
        class="mono small-field"
        :aria-label="names[kind]"
        :value="when.countries?.join(', ')"
        :title="`Two letters each, or one of ${groups}`"
        @change="put({ countries: words(value($event).toUpperCase()) })"
      />
      <input
        v-else-if="kind === 'languages'"
        class="mono small-field"
        :aria-label="names[kind]"
        :value="when.languages?.join(', ')"
        @change="put({ languages: words(value($event)) })"
      />
      <input
        v-else-if="kind === 'sources'"
        class="mono small-field"
        :aria-label="names[kind]"
        :value="when.sources?.join(', ')"
        @change="put({ sources: words(value($event)) })"
      />
      <span v-else-if="kind === 'devices'" class="picks">
        <label v-for="device in devices" :key="device"
          ><input
            type="checkbox"
            :checked="when.devices?.includes(device)"
            @change="put({ devices: toggle(when.devices ?? [], device) })"
          />{{ device }}</label
        >
      </span>
      <select
        v-else-if="kind === 'visitor'"
        class="small-field"
        :aria-label="names[kind]"
        :value="when.visitor"
        @change="put({ visitor: when.visitor === 'new' ? 'returning' : 'new' })"
      >
        <option value="new">new</option>
        <option value="returning">returning</option>
      </select>
      <span v-else-if="kind === 'weekdays'" class="picks">
        <label v-for="(name, i) in weekdayNames" :key="name"
          ><input
            type="checkbox"
            :checked="when.weekdays?.includes(i + 1)"
            @change="put({ weekdays: toggle(when.weekdays ?? [], i + 1) })"
          />{{ name }}</label
        >
      </span>
      <span v-else-if="kind === 'hours'" class="picks">
        <input
          class="small-field"
          type="time"
          aria-label="From"
          :value="when.hours?.from"
          @change="put({ hours: { from: value($event), until: when.hours?.until ?? '' } })"
        />
        to
        <input
          class="small-field"
          type="time"
          aria-label="Until"
          :value="when.hours?.until"
          @change="put({ hours: { from: when.hours?.from ?? '', until: value($event) } })"
        />
      </span>
      <span v-else class="picks">
        <input
          class="small-field"
          type="date"
          aria-label="First day"
          :value="when.days?.from"
          @change="day('from', value($event))"
        />
        to
        <input
          class="small-field"
          type="date"
          aria-label="Last day"
          :value="when.days?.until"
          @change="day('until', value($event))"
        />
      </span>
      <button
        class="text-link"
        type="button"
        :aria-label="`Take ${names[kind].toLowerCase()} away`"
        @click="remove(kind)"
      >
        ×
      </button>
    </div>
    <label v-if="timed" class="line"
      ><span class="name">In the zone</span
      ><input
        class="mono small-field"
        :value="when.zone ?? ''"
        :placeholder="props.zone"
        @change="setZone(value($event))"
    /></label>
    <p v-if="when.visitor" class="quiet">
      Known within one day only, unless the domain’s own cookie is switched on in Setup.
    </p>
    <label v-if="unset.length > 0" class="line">
      <span class="visually-hidden">Add a condition</span>
      <select class="small-field" value="" @change="addChosen">
        <option value="" disabled>{{ set.length === 0 ? 'Only for…' : 'and…' }}</option>
        <option v-for="kind in unset" :key="kind" :value="kind">{{ names[kind] }}</option>
      </select>
    </label>
  </div>
</template>

<style scoped>
.conditions {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 5px;
  font-size: 13px;
}
.line {
  display: flex;
  align-items: center;
  gap: 8px;
}
.name {
  flex: none;
  width: 104px;
  color: var(--ink-two);
}
.picks {
  flex: 1;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 3px 8px;
}
.picks label {
  display: flex;
  gap: 4px;
  align-items: center;
}
input:not([type='checkbox']),
select {
  min-width: 0;
}
input.mono {
  flex: 1;
}
p {
  margin: 0;
}
</style>
