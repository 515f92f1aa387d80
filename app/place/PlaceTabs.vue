<script setup lang="ts">
/** What can be placed, as the parts of the view. */
const parts = [
  { to: '/place/products', title: 'Products' },
  { to: '/place/kits', title: 'Kits for posts' },
  { to: '/place/sources', title: 'Sources' },
];
</script>

<template>
  <v-tabs class="parts" density="compact" :height="38" color="primary" aria-label="Place" role="navigation">
    <v-tab v-for="part in parts" :key="part.to" :to="part.to" role="link">{{ part.title }}</v-tab>
  </v-tabs>
</template>

<style scoped>
.parts {
  flex: none;
  padding: 6px 8px 0;
  border-bottom: 1px solid var(--line);
}
.parts :deep(.v-tab) {
  min-width: 0;
  padding: 0 12px;
  letter-spacing: 0;
  text-transform: none;
}
</style>
