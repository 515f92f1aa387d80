<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Whose } from '#core/catalogue';
import { conflictsOf } from '../sync/index.ts';
import type { Waiting } from '../sync/index.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { moment } from '../theme/formats.ts';
import { pathName, plain } from './words.ts';

/** Both versions of a record that two people changed, and the choice between them, field by field. */
const props = defineProps<{ waiting: Waiting }>();
const catalogue = useCatalogue();
const key = (path: readonly string[]) => path.join('\n');
const chosen = ref<Record<string, Whose>>({});
watch(
  () => props.waiting.change.change,
  () => (chosen.value = {}),
);
const conflicts = computed(() => conflictsOf(props.waiting));
const author = computed(() => props.waiting.theirs?.by || 'Somebody');
/** What happened, and what to press where the record is one thing: one of them removes it, or both together are not right. */
const whole = computed(() => {
  const { theirs, change } = props.waiting;
  if (theirs?.value === null)
    return {
      words: 'removed this while you changed it',
      mine: 'Keep it, with your change',
      theirs: 'Let it be removed',
    };
  if (change.value === null)
    return {
      words: 'changed this while you removed it',
      mine: 'Remove it all the same',
      theirs: 'Keep it, with theirs',
    };
  return conflicts.value.length === 0
    ? {
        words: 'changed this too, and both together are not right',
        mine: 'Keep yours',
        theirs: 'Take theirs',
      }
    : undefined;
});
const whoseOf = (path: readonly string[]): Whose => chosen.value[key(path)] ?? 'mine'; // mine until one chooses
const saves = computed(() => {
  const theirs = conflicts.value.filter(({ path }) => whoseOf(path) === 'theirs').length;
  if (theirs === 0) return 'Keep yours';
  return theirs === conflicts.value.length ? 'Take theirs' : 'Save what is chosen';
});
const choose = (whose?: Whose) =>
  catalogue.choose(props.waiting.record, ({ path }) => whose ?? whoseOf(path));
</script>

<template>
  <section v-if="waiting.theirs" class="versions" role="alert" aria-label="Two versions">
    <p>
      <strong>{{ author }}</strong> {{ whole ? whole.words : 'changed the same' }},
      {{ moment(waiting.theirs.at) }}. Which stays?
      <template v-if="!whole && conflicts.length > 1"
        >What only one of you changed is kept in any case.</template
      >
    </p>
    <template v-if="!whole">
      <v-radio-group
        v-for="{ path, mine, theirs } in conflicts"
        :key="key(path)"
        :label="pathName(path)"
        :model-value="whoseOf(path)"
        hide-details
        density="compact"
        @update:model-value="chosen[key(path)] = $event === 'theirs' ? 'theirs' : 'mine'"
      >
        <v-radio value="mine" :label="`Yours: ${plain(mine)}`" />
        <v-radio value="theirs" :label="`${author}’s: ${plain(theirs)}`" />
      </v-radio-group>
    </template>
    <div class="buttons">
      <template v-if="!whole">
        <v-btn color="primary" @click="choose()">{{ saves }}</v-btn>
        <v-btn v-if="saves !== 'Take theirs'" class="quiet-button" @click="choose('theirs')"
          >Take theirs</v-btn
        >
      </template>
      <template v-else>
        <v-btn color="primary" @click="choose('mine')">{{ whole.mine }}</v-btn>
        <v-btn class="quiet-button" @click="choose('theirs')">{{ whole.theirs }}</v-btn>
      </template>
    </div>
  </section>
</template>

<style scoped>
.versions {
  margin: 0 0 14px;
  padding: 10px 12px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
p {
  margin: 0 0 6px;
}
.versions :deep(.v-radio-group > .v-input__control > .v-label) {
  margin: 4px 0 0;
  font-weight: 600;
}
.versions :deep(.v-radio-group > .v-input__control > .v-label)::first-letter {
  text-transform: uppercase;
}
.versions :deep(.v-selection-control-group) {
  padding: 0;
  margin: 0;
}
.versions :deep(.v-label) {
  opacity: 1;
  overflow-wrap: anywhere;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 8px;
}
</style>
