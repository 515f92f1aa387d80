<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { AlikeWord, BadRow } from '#core/catalogue';
import { count } from './formats.ts';

/** Rows that could not be read, each with its reasons and its cells to mend. */
const props = defineProps<{
  rows: readonly BadRow[];
  /** What is wrong in the same way in many of them. */
  alike: readonly AlikeWord[];
  total: number;
  header: readonly string[];
}>();
const emit = defineEmits<{
  mend: [row: BadRow, cells: readonly string[]];
  mendAll: [alike: AlikeWord, by: string];
}>();
const shownAlike = 8;
const replacements = ref(new Map<string, string>());
const keyOf = ({ column, word }: AlikeWord) => `${column} ${word}`;
const isChanged = (one: AlikeWord) => (replacements.value.get(keyOf(one)) ?? one.word) !== one.word;
const mendAll = (one: AlikeWord) => {
  const by = replacements.value.get(keyOf(one));
  if (by !== undefined && isChanged(one)) emit('mendAll', one, by);
};
const shown = 20;
const drafts = ref(new Map<number, string[]>());
watch(
  () => props.rows,
  () => (drafts.value = new Map()),
);
/** Rows with a fault of their own come first; of the others it stands above already what is wrong. */
const inOrder = computed(() => {
  const said = new Set(props.alike.slice(0, shownAlike).map(({ message }) => message));
  return props.rows
    .map((row) => ({ row, own: row.problems.filter(({ message }) => !said.has(message)) }))
    .toSorted((a, b) => Number(b.own.length > 0) - Number(a.own.length > 0));
});
const cellsOf = (row: BadRow) => drafts.value.get(row.line) ?? props.header.map((_, i) => row.cells[i] ?? ''); // a row may be shorter than its header
const change = (row: BadRow, i: number, text: string) => {
  const cells = [...cellsOf(row)];
  cells[i] = text;
  drafts.value.set(row.line, cells);
};
</script>

<template>
  <section aria-label="Rows that cannot be read">
    <h2>{{ count(total) }} {{ total === 1 ? 'row is' : 'rows are' }} not good</h2>
    <p class="quiet">Mend them here, or leave them: the others are brought in without them.</p>
    <form
      v-for="one in alike.slice(0, shownAlike)"
      :key="`${keyOf(one)} ${one.message}`"
      class="alike"
      @submit.prevent="mendAll(one)"
    >
      <span class="bad">{{ one.message }}</span>
      <v-text-field
        :model-value="replacements.get(keyOf(one)) ?? one.word"
        :label="`${header[one.column]}, in ${count(one.rows)} rows`"
        class="mono"
        @update:model-value="replacements.set(keyOf(one), $event)"
      />
      <v-btn type="submit" color="primary" :disabled="!isChanged(one)">Mend all {{ count(one.rows) }}</v-btn>
    </form>
    <form
      v-for="{ row, own } in inOrder.slice(0, shown)"
      :key="row.line"
      @submit.prevent="emit('mend', row, cellsOf(row))"
    >
      <span class="line">Line {{ row.line }}</span>
      <v-text-field
        v-for="(name, i) in header"
        :key="name"
        single-line
        class="small-field mono cell"
        :model-value="cellsOf(row)[i]"
        :aria-label="`Line ${row.line}, ${name}`"
        @update:model-value="change(row, i, $event)"
      />
      <v-btn type="submit" class="quiet-button">Mend</v-btn>
      <span v-if="own.length > 0" class="bad">{{ own.map(({ message }) => message).join(' ') }}</span>
    </form>
    <p v-if="total > shown" class="quiet">and {{ count(total - shown) }} more</p>
  </section>
</template>

<style scoped>
section {
  margin-top: 16px;
}
form {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 5px 0;
  border-top: 1px solid var(--line);
}
.cell {
  flex: 1;
  min-width: 96px;
}
.alike {
  max-width: 560px;
}
.alike .v-text-field {
  flex: 1;
}
.line {
  width: 62px;
}
.bad {
  flex-basis: 100%;
  color: var(--copper);
}
</style>
