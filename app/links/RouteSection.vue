<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { nextTick, useTemplateRef, watch } from 'vue';

/** One section of the stem: a sentence that can be read, and in its place the form that changes it. */
const props = defineProps<{
  label: string;
  filled?: boolean;
  tone?: 'fern' | 'copper';
  editable?: boolean;
  editing?: boolean;
  problem?: string;
}>();
const emit = defineEmits<{ edit: []; save: []; cancel: [] }>();
const form = useTemplateRef('form');
const button = useTemplateRef<{ $el: HTMLElement }>('button');

watch(
  () => props.editing,
  async (editing) => {
    await nextTick();
    if (!editing) button.value?.$el.focus();
    // The fields are loaded when a section is edited for the first time.
    for (let frame = 0; editing && frame < 120; frame++) {
      const field = form.value?.querySelector<HTMLElement>('input:not([type="hidden"]), textarea, select');
      if (field) return field.focus();
      await new Promise(requestAnimationFrame);
    }
  },
);
const onKey = (event: KeyboardEvent) => {
  if (event.key === 'Escape') {
    event.stopPropagation();
    emit('cancel');
  } else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) {
    // Elsewhere on the route it tests the link.
    event.preventDefault();
    event.stopPropagation();
    emit('save');
  }
};
</script>

<template>
  <section class="route-section" :class="[tone ?? 'fern', { filled }]" :aria-label="label">
    <span class="blade" aria-hidden="true" />
    <header>
      <h3 class="caps">{{ label }}</h3>
      <text-link
        v-if="editable && !editing"
        ref="button"
        class="section-edit"
        :aria-label="`Edit ${label.toLowerCase()}`"
        @click="emit('edit')"
      >
        edit<hint
          >Edit {{ label.toLowerCase() }} <v-hotkey :keys="label.charAt(0).toLowerCase()" inline
        /></hint>
      </text-link>
    </header>
    <form v-if="editing" ref="form" @submit.prevent="emit('save')" @keydown="onKey">
      <slot name="editor" />
      <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
      <div class="buttons">
        <v-btn type="submit" color="primary">Save</v-btn>
        <v-btn class="quiet-button" @click="emit('cancel')">Cancel</v-btn>
      </div>
    </form>
    <div v-else class="sentence"><slot /></div>
  </section>
</template>

<style scoped>
.route-section {
  position: relative;
  padding: 0 0 14px 34px;
}
.blade {
  position: absolute;
  left: 5px;
  top: 3px;
  width: 24px;
  height: 15px;
  border-radius: 75% 12% 75% 12%;
  border: 1.5px solid var(--fern);
  background: var(--surface);
}
.filled .blade {
  background: var(--fern);
}
.copper .blade {
  border-color: var(--copper);
  background: var(--copper-soft);
}
header {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
}
h3 {
  margin: 0;
}
.sentence {
  overflow-wrap: anywhere;
}
form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 9px;
  padding: 8px 0 4px;
}
.buttons {
  display: flex;
  gap: 8px;
}
.problem {
  margin: 0;
  color: var(--copper);
}
</style>
