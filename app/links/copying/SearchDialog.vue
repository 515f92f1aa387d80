<script setup lang="ts">
import LinkSearch from './LinkSearch.vue';

/** The search for a link to copy, over whatever is shown. */
const open = defineModel<boolean>({ required: true });
</script>

<template>
  <v-dialog v-model="open" max-width="480" location="top" aria-label="Copy a link">
    <div class="box">
      <h2>Copy a link</h2>
      <link-search @copied="open = false" />
    </div>
  </v-dialog>
</template>

<style scoped>
.box {
  padding: 16px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
h2 {
  margin-bottom: 12px;
}
</style>
