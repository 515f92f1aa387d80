<script setup lang="ts">
import type { Role } from '#core/catalogue';
import { placeTitle } from '#core/link-parts';
import RolePicker from '../../theme/RolePicker.vue';
import type { SeenPart } from './parts.ts';

/** The parts of pasted links with their roles, each corrected by one choice. */
defineProps<{ parts: readonly SeenPart[] }>();
const emit = defineEmits<{ correct: [part: string, role: Role] }>();
const most = 4;
const shown = (values: readonly string[]) =>
  values
    .slice(0, most)
    .map((value) => (value === '' ? '(empty)' : value))
    .join('  ');
</script>

<template>
  <v-table density="compact">
    <thead>
      <tr>
        <th scope="col">Part</th>
        <th scope="col">Is the</th>
        <th scope="col">Why</th>
        <th scope="col">Values</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="part in parts" :key="part.name" :class="{ open: part.open }">
        <td :class="{ mono: placeTitle(part.name) === part.name }">{{ placeTitle(part.name) }}</td>
        <td>
          <role-picker
            :name="placeTitle(part.name)"
            :role="part.role"
            :open="part.open"
            :reason="part.reason"
            @choose="emit('correct', part.name, $event)"
          />
        </td>
        <td class="quiet">{{ part.reason }}</td>
        <td class="mono values">{{ shown(part.values) }}</td>
      </tr>
    </tbody>
  </v-table>
</template>

<style scoped>
.values {
  max-width: 420px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
td:first-child {
  white-space: nowrap;
}
/* On a phone a part's words stand below each other, so that they can be read whole. */
@media (max-width: 700px) {
  thead {
    display: none;
  }
  tr {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 2px 10px;
    padding: 8px 10px;
    border-bottom: 1px solid var(--line);
  }
  .v-table td {
    height: auto;
    padding: 0;
    border: 0;
  }
  td:nth-child(n + 3) {
    grid-column: 1 / -1;
  }
  .values {
    max-width: none;
    white-space: normal;
    overflow-wrap: anywhere;
  }
}
</style>
