<script setup lang="ts">
/** A page of Decide: its heading, what can be done from there, and what stands below. */
defineProps<{ heading: string; about?: string }>();
</script>

<template>
  <section class="page" aria-labelledby="h-page">
    <header>
      <h1 id="h-page">{{ heading }}</h1>
      <span v-if="about" class="quiet">{{ about }}</span>
      <slot name="about" />
      <span class="actions"><slot name="actions" /></span>
    </header>
    <slot />
  </section>
</template>

<style scoped>
.page {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 13px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: baseline;
  margin-bottom: 10px;
}
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin-inline-start: auto;
}
@media (max-width: 760px) {
  .page {
    padding-inline: 14px;
  }
}
</style>
