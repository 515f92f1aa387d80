<script setup lang="ts">
import { computed } from 'vue';
import type { Waiting } from '../data/database.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { moment } from '../theme/formats.ts';

/** Both versions of a record that two people changed, and the choice between them. */
const props = defineProps<{ waiting: Waiting }>();
const catalogue = useCatalogue();

const plain = (value: unknown): string =>
  value === undefined ? '(not set)' : typeof value === 'string' ? value : JSON.stringify(value);
const differences = computed(() => {
  const mine = props.waiting.change.value ?? {};
  const theirs = props.waiting.theirs?.value ?? {};
  return [...new Set([...Object.keys(mine), ...Object.keys(theirs)])]
    .map((field) => ({ field, mine: plain(mine[field]), theirs: plain(theirs[field]) }))
    .filter((row) => row.mine !== row.theirs);
});
</script>

<template>
  <section v-if="waiting.theirs" class="conflict" role="alert" aria-label="Two versions">
    <p>
      <strong>{{ waiting.theirs.by || 'Somebody' }}</strong> changed this too,
      {{ moment(waiting.theirs.at) }}. Which version stays?
    </p>
    <p v-if="waiting.theirs.value === null">Theirs removes it.</p>
    <table>
      <thead>
        <tr>
          <th scope="col"></th>
          <th scope="col">Yours</th>
          <th scope="col">Theirs</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in differences" :key="row.field">
          <th scope="row">{{ row.field }}</th>
          <td>{{ row.mine }}</td>
          <td>{{ row.theirs }}</td>
        </tr>
      </tbody>
    </table>
    <div class="buttons">
      <v-btn color="primary" @click="catalogue.choose(waiting.record, 'mine')">Keep yours</v-btn>
      <v-btn class="quiet-button" @click="catalogue.choose(waiting.record, 'theirs')">Take theirs</v-btn>
    </div>
  </section>
</template>

<style scoped>
.conflict {
  margin: 0 0 14px;
  padding: 10px 12px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
p {
  margin: 0 0 6px;
}
td,
th {
  padding: 3px 10px 3px 0;
  vertical-align: top;
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
</style>
