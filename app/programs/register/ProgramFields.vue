<script setup lang="ts">
import { ref } from 'vue';
import type { DraftProgram } from '#core/link-parts';
import { shopNameIn } from '#core/link-parts';
import { traceOnce } from '../../data/trace.ts';
import { useCatalogue } from '../../data/catalogue.ts';

/** The programs that pasted links show, each named after its shop; the shops' own pages say better where they may be read. */
const props = defineProps<{ programs: readonly DraftProgram[] }>();
const names = defineModel<Readonly<Record<string, string>>>({ required: true });
const catalogue = useCatalogue();
const reading = ref(false);
const readFor = ref('');

const nameOf = (program: DraftProgram) => names.value[program.code + program.hosts.join()] ?? program.name;
const setName = (program: DraftProgram, name: string) => {
  names.value = { ...names.value, [program.code + program.hosts.join()]: name };
};
/** Reads the front page of each shop whose program nobody has named yet. */
const read = async () => {
  reading.value = true;
  for (const program of props.programs) {
    const [host] = program.hosts;
    const { origin } = program;
    if (host === undefined || origin === undefined || nameOf(program) !== program.name) continue;
    const title = (await traceOnce(`${origin}/`))?.page?.title ?? '';
    const found = shopNameIn(title, host);
    if (found !== '') setName(program, found);
  }
  reading.value = false;
  readFor.value = 'done';
};
if (catalogue.settings.readPages) void read();
</script>

<template>
  <p v-if="programs.length === 0" class="quiet">
    Its links show no program yet. Name its programs after it is registered, or paste a link that leads to a
    shop’s page.
  </p>
  <div v-for="program in programs" :key="program.code + program.hosts.join()" class="program">
    <v-text-field
      :model-value="nameOf(program)"
      :label="program.code === '' ? 'Program' : `Program ${program.code}`"
      maxlength="80"
      @update:model-value="setName(program, $event)"
    />
    <span class="quiet mono">{{ program.hosts.join(', ') || 'its shop is not known' }}</span>
  </div>
  <v-btn
    v-if="programs.some(({ hosts }) => hosts.length > 0) && readFor === ''"
    class="quiet-button"
    :loading="reading"
    @click="read"
    >Read the names on the shops’ pages</v-btn
  >
</template>

<style scoped>
.program {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 10px;
  align-items: center;
  max-width: 620px;
  margin-bottom: 8px;
}
p {
  margin: 0 0 4px;
}
</style>
