<script setup lang="ts">
import { computed } from 'vue';
import { useRoute, useRouter } from 'vue-router';

/** What can be placed, as the parts of the view. */
const parts = [
  { to: '/place/articles', title: 'Articles' },
  { to: '/place/pages', title: 'Pages' },
  { to: '/place/products', title: 'Products' },
  { to: '/place/kits', title: 'Kits' },
  { to: '/place/sources', title: 'Sources' },
];
const route = useRoute();
const router = useRouter();
const here = computed(() => parts.find(({ to }) => route.path.startsWith(to))?.to ?? '/place/articles');
</script>

<template>
  <v-tabs
    :model-value="here"
    class="parts"
    density="compact"
    :height="38"
    color="primary"
    aria-label="Parts of Place"
  >
    <v-tab v-for="part in parts" :key="part.to" :value="part.to" @click="router.push(part.to)">{{
      part.title
    }}</v-tab>
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
