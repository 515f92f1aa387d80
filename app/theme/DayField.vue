<script setup lang="ts">
import { computed, ref } from 'vue';

/** A day, typed as `2026-11-24` or picked from a month; empty where none is given. */
const day = defineModel<string>({ required: true });
/** With a label it is as large as other fields with one; without, as small as the words beside it. */
defineProps<{ label?: string }>();
const localDate = (text: string): Date | null =>
  /^\d{4}-\d\d-\d\d$/.test(text) ? new Date(`${text}T00:00`) : null;
const dayText = (date: Date): string =>
  [date.getFullYear(), date.getMonth() + 1, date.getDate()].map((n) => String(n).padStart(2, '0')).join('-');
const open = ref(false);
const date = computed({
  get: () => localDate(day.value),
  set: (next: Date | null) => (day.value = next ? dayText(next) : ''),
});
/** A day that is whole is taken as it is typed, not only once the field is left. */
const typed = ({ target }: Event) => {
  const text = target instanceof HTMLInputElement ? target.value : '';
  const read = localDate(text);
  if (read && dayText(read) === text) day.value = text;
};
</script>

<template>
  <v-date-input
    v-model="date"
    v-model:menu="open"
    :class="{ 'small-field': !label, 'day-field': !label }"
    :label="label"
    input-format="yyyy-mm-dd"
    placeholder="2026-11-24"
    :first-day-of-week="1"
    :single-line="!label"
    role="combobox"
    aria-haspopup="dialog"
    :aria-expanded="open"
    @input="typed"
  />
</template>
