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
/** One of them removes it, or what either changed does not fit together. */
const whole = computed(() => {
  const { theirs, change } = props.waiting;
  if (theirs?.value === null) return 'Theirs removes it.';
  if (change.value === null) return 'Yours removes it.';
  return conflicts.value.length === 0 ? 'Both together are not right; one of them has to stay alone.' : '';
});
const author = computed(() => props.waiting.theirs?.by || 'Somebody');
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
      <strong>{{ author }}</strong> changed {{ whole === '' ? 'the same' : 'this too' }},
      {{ moment(waiting.theirs.at) }}. Which version stays?
    </p>
    <p v-if="whole !== ''">{{ whole }}</p>
    <template v-else>
      <p v-if="conflicts.length > 1" class="quiet">What only one of you changed is in either.</p>
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
      <template v-if="whole === ''">
        <v-btn color="primary" @click="choose()">{{ saves }}</v-btn>
        <v-btn v-if="saves !== 'Take theirs'" class="quiet-button" @click="choose('theirs')"
          >Take theirs</v-btn
        >
      </template>
      <template v-else>
        <v-btn color="primary" @click="choose('mine')">{{
          waiting.change.value === null ? 'Remove it all the same' : 'Keep yours'
        }}</v-btn>
        <v-btn class="quiet-button" @click="choose('theirs')">{{
          waiting.theirs.value === null ? 'Let it be removed' : 'Take theirs'
        }}</v-btn>
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
