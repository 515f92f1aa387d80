<script setup lang="ts">
/** Text that is read by those who want it: a line that opens what stands under it. */
defineProps<{ summary: string }>();
</script>

<template>
  <!-- eslint-disable-next-line vue/no-restricted-html-elements -- what is closed is found by the browser's own search in the page, which opens it -->
  <details class="more-text">
    <summary>{{ summary }}</summary>
    <slot />
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  width: fit-content;
  color: var(--fern);
  font-size: 13px;
}
</style>
