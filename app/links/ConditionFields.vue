<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed } from 'vue';
import type { Conditions } from '#core/catalogue';
import { devices } from '#core/catalogue';
import { countryGroups } from '#core/hop';
import DayField from '../theme/DayField.vue';

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
const visitorKinds = ['new', 'returning'] as const;
const weekdayNames = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];
const groups = Object.keys(countryGroups).join(', ');

/** What is chosen to be added is added at once. */
const nothing: Kind | null = null;
const put = (more: Partial<Conditions>) => (when.value = { ...when.value, ...more });
const add = (kind: Kind) => put({ [kind]: fresh[kind] });
const remove = (kind: Kind) => {
  const rest: Conditions = Object.fromEntries(Object.entries(when.value).filter(([name]) => name !== kind));
  // A zone means something only beside hours and days.
  const { zone: _, ...untimed } = rest;
  when.value = rest.hours || rest.weekdays || rest.days ? rest : untimed;
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
      <hint v-if="kind === 'countries'">Two letters each, or one of {{ groups }}</hint>
      <v-text-field
        v-if="kind === 'countries'"
        single-line
        class="small-field mono grow"
        :aria-label="names[kind]"
        :model-value="when.countries?.join(', ')"
        @change="put({ countries: words(value($event).toUpperCase()) })"
      />
      <v-text-field
        v-else-if="kind === 'languages'"
        single-line
        class="small-field mono grow"
        :aria-label="names[kind]"
        :model-value="when.languages?.join(', ')"
        @change="put({ languages: words(value($event)) })"
      />
      <v-text-field
        v-else-if="kind === 'sources'"
        single-line
        class="small-field mono grow"
        :aria-label="names[kind]"
        :model-value="when.sources?.join(', ')"
        @change="put({ sources: words(value($event)) })"
      />
      <span v-else-if="kind === 'devices'" class="picks">
        <v-checkbox
          v-for="device in devices"
          :key="device"
          :model-value="when.devices?.includes(device) ?? false"
          :label="device"
          @update:model-value="put({ devices: toggle(when.devices ?? [], device) })"
        />
      </span>
      <v-select
        v-else-if="kind === 'visitor'"
        single-line
        class="small-field"
        :aria-label="names[kind]"
        :items="visitorKinds"
        :model-value="when.visitor ?? null"
        @update:model-value="$event && put({ visitor: $event })"
      />
      <span v-else-if="kind === 'weekdays'" class="picks">
        <v-checkbox
          v-for="(name, i) in weekdayNames"
          :key="name"
          :model-value="when.weekdays?.includes(i + 1) ?? false"
          :label="name"
          @update:model-value="put({ weekdays: toggle(when.weekdays ?? [], i + 1) })"
        />
      </span>
      <span v-else-if="kind === 'hours'" class="picks">
        <v-text-field
          single-line
          class="small-field"
          type="time"
          aria-label="From"
          :model-value="when.hours?.from"
          @update:model-value="put({ hours: { from: $event, until: when.hours?.until ?? '' } })"
        />
        to
        <v-text-field
          single-line
          class="small-field"
          type="time"
          aria-label="Until"
          :model-value="when.hours?.until"
          @update:model-value="put({ hours: { from: when.hours?.from ?? '', until: $event } })"
        />
      </span>
      <span v-else class="picks">
        <day-field
          aria-label="First day"
          :model-value="when.days?.from ?? ''"
          @update:model-value="day('from', $event)"
        />
        to
        <day-field
          aria-label="Last day"
          :model-value="when.days?.until ?? ''"
          @update:model-value="day('until', $event)"
        />
      </span>
      <text-link :aria-label="`Take ${names[kind].toLowerCase()} away`" @click="remove(kind)"> × </text-link>
    </div>
    <div v-if="timed" class="line">
      <span class="name">In the zone</span
      ><v-text-field
        single-line
        class="small-field mono grow"
        aria-label="In the zone"
        :model-value="when.zone ?? ''"
        :placeholder="props.zone"
        @change="setZone(value($event))"
      />
    </div>
    <p v-if="when.visitor" class="quiet">
      Known within one day only, unless the domain’s own cookie is switched on in Setup.
    </p>
    <v-select
      v-if="unset.length > 0"
      single-line
      class="small-field adds"
      :items="unset.map((kind) => ({ value: kind, title: names[kind] }))"
      :model-value="nothing"
      aria-label="Add a condition"
      :placeholder="set.length === 0 ? 'Only for…' : 'and…'"
      @update:model-value="$event && add($event)"
    />
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
.grow.v-input {
  flex: 1;
  min-width: 0;
}
.adds.v-input {
  justify-self: start;
}
p {
  margin: 0;
}
</style>
