<script setup lang="ts">
/** Has files chosen by a press on what stands in it; as a whole place to drop them on, or as a link in a line. */
defineProps<{ accept?: string; multiple?: boolean; inLine?: boolean }>();
const emit = defineEmits<{ files: [files: File[]] }>();
const onChange = ({ target }: Event) => {
  if (!(target instanceof HTMLInputElement)) return;
  emit('files', [...(target.files ?? [])]);
  // The same file, mended since, can be chosen again.
  target.value = '';
};
</script>

<template>
  <label :class="inLine ? 'text-link' : 'place'">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- only this element opens the system's choice of files; nobody sees it -->
    <input type="file" class="visually-hidden" :accept="accept" :multiple="multiple" @change="onChange" />
    <slot />
  </label>
</template>

<style scoped>
.place {
  display: grid;
  gap: 2px;
  margin: 12px 0;
  padding: 20px;
  text-align: center;
  cursor: pointer;
  background: var(--surface);
  border: 1px dashed var(--fern);
  border-radius: var(--leaf-card);
}
label:focus-within {
  outline: 2px solid var(--fern);
}
</style>
