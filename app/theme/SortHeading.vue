<script setup lang="ts">
import Hint from './Hint.vue';
import { mdiArrowDown, mdiArrowUp } from '@mdi/js';
import { computed } from 'vue';

/** The heading of a column; pressed, it sorts by that column where it can be sorted. */
const props = defineProps<{
  title: string;
  /** A second line, such as the zone of its times. */
  under?: string | undefined;
  hint?: string | undefined;
  sortable?: boolean;
  /** Whether the table is sorted by this column, and which way. */
  sorted?: 'up' | 'down' | undefined;
  number?: boolean;
}>();
defineEmits<{ sort: [] }>();
const order = { up: 'ascending', down: 'descending' } as const;
const ariaSort = computed(() => (props.sorted ? order[props.sorted] : undefined));
</script>

<template>
  <th scope="col" :class="{ number }" :aria-sort="ariaSort">
    <text-link v-if="sortable" class="heading" :class="{ sorted }" @click="$emit('sort')"
      ><v-icon
        v-if="sorted"
        :icon="sorted === 'up' ? mdiArrowUp : mdiArrowDown"
        size="13"
        class="way"
        aria-hidden="true"
      />{{ title }}<hint v-if="hint">{{ hint }}</hint>
    </text-link>
    <span v-else class="heading"
      >{{ title }}<hint v-if="hint">{{ hint }}</hint></span
    >
    <small v-if="under">{{ under }}</small>
  </th>
</template>

<style scoped>
.heading {
  font-size: 12px;
  font-weight: 500;
  color: var(--ink-two);
  white-space: nowrap;
}
.sorted {
  color: var(--ink);
  font-weight: 600;
}
small {
  display: block;
  font-size: 12px;
  font-weight: 400;
  color: var(--ink-two);
}
.way {
  margin-right: 2px;
  vertical-align: -2px;
}
</style>
