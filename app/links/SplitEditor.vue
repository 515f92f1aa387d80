<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { nextTick, ref, useTemplateRef } from 'vue';
import { VueDraggable } from 'vue-draggable-plus';
import type { Branch } from '#core/catalogue';
import { freshBranchId } from '#core/catalogue';
import type { BranchWarning } from '#core/hop';
import { everyoneElse } from '#core/hop';
import { count } from '../theme/formats.ts';
import ConditionFields from './ConditionFields.vue';

/** The branches of a split, in the order in which they are tried; the last, everyone else, stands by itself. */
const branches = defineModel<Branch[]>({ required: true });
const weight = defineModel<number>('weight', { required: true });
/** How many visitors of a hundred each branch keeps while weights move by themselves; nought while they do not. */
const least = defineModel<number>('least', { default: 0 });
const usualLeast = 10;
const props = defineProps<{
  zone: string;
  destination: string;
  /** What was most likely not meant, by branch. */
  warnings: readonly BranchWarning[];
  /** Counted visitors each branch got in the days the list speaks of, by its ID; empty where it had none to share. */
  came: ReadonlyMap<string, number>;
}>();
const list = useTemplateRef<{ $el: HTMLElement }>('list');
const said = ref('');

const add = async (): Promise<void> => {
  const made: Branch = {
    id: freshBranchId(branches.value),
    name: '',
    when: {},
    destination: props.destination,
    weight: 1,
  };
  branches.value = [...branches.value, made];
  await nextTick();
  list.value?.$el.querySelector<HTMLElement>(`[data-branch="${made.id}"] input`)?.focus();
};
const change = (i: number, more: Partial<Branch>) =>
  (branches.value = branches.value.map((branch, at) => (at === i ? { ...branch, ...more } : branch)));
const remove = (i: number) => (branches.value = branches.value.filter((_, at) => at !== i));
const move = async (from: number, to: number): Promise<void> => {
  const branch = branches.value[from];
  if (!branch || to < 0 || to >= branches.value.length || from === to) return;
  const rest = branches.value.toSpliced(from, 1);
  branches.value = rest.toSpliced(to, 0, branch);
  said.value = `Branch ${from + 1} is now tried as number ${to + 1}.`;
  await nextTick();
  list.value?.$el.querySelector<HTMLElement>(`[data-branch="${branch.id}"] .grip`)?.focus();
};
const onGrip = (event: KeyboardEvent, i: number) => {
  if (event.key === 'ArrowUp') void move(i, i - 1);
  else if (event.key === 'ArrowDown') void move(i, i + 1);
  else return;
  event.preventDefault();
  event.stopPropagation();
};
const dropped = ({
  oldIndex = 0,
  newIndex = 0,
}: {
  oldIndex?: number | undefined;
  newIndex?: number | undefined;
}) => {
  if (oldIndex !== newIndex) said.value = `Branch ${oldIndex + 1} is now tried as number ${newIndex + 1}.`;
};
/** What a branch got so far, in words. */
const cameWords = (branch: string): string => {
  const all = [...props.came.values()].reduce((sum, n) => sum + n, 0);
  const own = props.came.get(branch) ?? 0; // nobody came by it
  return all === 0 ? '' : `${count(own)} came so far, ${Math.round((own / all) * 100)} %`;
};
</script>

<template>
  <!-- Dragged by the same code with a mouse and by touch, which knows no dragging of its own. -->
  <vue-draggable
    ref="list"
    v-model="branches"
    tag="ol"
    class="branches"
    handle=".grip"
    force-fallback
    @end="dropped"
  >
    <li v-for="(branch, i) in branches" :key="branch.id" :data-branch="branch.id">
      <div class="head">
        <!-- Not a button element: some browsers do not let those be dragged. -->
        <span
          class="grip"
          role="button"
          tabindex="0"
          :aria-label="`Branch ${i + 1}: drag, or move it with the arrow keys`"
          @keydown="onGrip($event, i)"
        >
          <span aria-hidden="true" class="blade" />
          <hint>Drag it, or move it with the arrow keys</hint>
        </span>
        <v-text-field
          single-line
          class="small-field name"
          :model-value="branch.name"
          placeholder="Called by its conditions"
          aria-label="Name of the branch"
          @update:model-value="change(i, { name: $event })"
        />
        <span class="weight"
          >weight
          <v-number-input
            class="small-field"
            :aria-label="`Weight of branch ${i + 1}`"
            :min="0"
            :max="1000"
            :model-value="branch.weight"
            @update:model-value="change(i, { weight: $event ?? 0 })"
          /><hint>Share among the branches with the very same conditions</hint></span
        >
        <text-link :aria-label="`Remove branch ${i + 1}`" @click="remove(i)"> × </text-link>
      </div>
      <p v-if="cameWords(branch.id) !== ''" class="quiet came">{{ cameWords(branch.id) }}</p>
      <condition-fields
        :model-value="branch.when"
        :zone="zone"
        @update:model-value="change(i, { when: $event })"
      />
      <p
        v-for="warning in warnings.filter((one) => one.branch === branch.id)"
        :key="warning.words"
        class="warned"
        role="note"
      >
        {{ warning.words }}
      </p>
      <v-textarea
        :rows="2"
        single-line
        class="small-field mono"
        spellcheck="false"
        :model-value="branch.destination"
        aria-label="Destination of the branch"
        @update:model-value="change(i, { destination: $event.trim() })"
      />
    </li>
  </vue-draggable>
  <div class="rest">
    <span
      >Everyone else goes to the link’s own destination.
      <template v-if="cameWords(everyoneElse) !== ''">{{ cameWords(everyoneElse) }}.</template></span
    >
    <span class="weight"
      >weight
      <v-number-input
        class="small-field"
        aria-label="Weight of everyone else"
        :min="0"
        :max="1000"
        :model-value="weight"
        @update:model-value="weight = $event ?? 0"
      /><hint>Share among the branches without conditions</hint></span
    >
  </div>
  <text-link @click="add">Add a branch</text-link>
  <div v-if="branches.length > 0" class="moving">
    <v-checkbox
      hide-details
      density="compact"
      :model-value="least > 0"
      label="Weights move by themselves to what earns more"
      @update:model-value="least = $event ? usualLeast : 0"
    />
    <label v-if="least > 0" class="quiet"
      >each branch keeps at least
      <v-number-input
        v-model="least"
        class="small-field"
        aria-label="Least share of a branch in percent"
        :min="10"
        :max="50"
      />
      %</label
    >
  </div>
  <p class="visually-hidden" role="status">{{ said }}</p>
</template>

<style scoped>
.warned {
  margin: 0;
  font-size: 13px;
  color: var(--copper);
}
.branches {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 8px;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  padding: 8px 10px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.came {
  margin: 0;
  font-size: 13px;
}
.head,
.rest {
  display: flex;
  align-items: center;
  gap: 8px;
}
.rest {
  justify-content: space-between;
  font-size: 13px;
  color: var(--ink-two);
}
.grip {
  cursor: grab;
  touch-action: none;
  padding: 4px 2px;
}
.grip:focus-visible {
  outline: 2px solid var(--fern);
}
.blade {
  display: block;
  width: 20px;
  height: 12px;
  border: 1.5px solid var(--fern);
  border-radius: 75% 12% 75% 12%;
  background: var(--fern-soft);
}
.name.v-input {
  flex: 1;
  min-width: 0;
}
.weight {
  display: flex;
  align-items: center;
  gap: 5px;
  font-size: 13px;
  color: var(--ink-two);
}
.weight .v-input {
  width: 62px;
}
.moving label {
  display: flex;
  gap: 6px;
  align-items: center;
  font-size: 13px;
}
.moving .v-number-input {
  max-width: 76px;
}
</style>
