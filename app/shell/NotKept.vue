<script setup lang="ts">
import { useCatalogue } from '../data/catalogue.ts';

/** Why what was just to be saved was not kept. The form it was typed into stays open, with all that was typed. */
const catalogue = useCatalogue();
</script>

<template>
  <div v-if="catalogue.notKept !== ''" class="not-kept" role="alert">
    <span>{{ catalogue.notKept }} What you typed still stands.</span>
    <v-btn class="quiet-button" @click="catalogue.notKept = ''">Close</v-btn>
  </div>
</template>

<style scoped>
.not-kept {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 12px;
  padding: 8px 18px;
  background: var(--copper-soft);
  color: var(--copper);
  font-weight: 600;
}
</style>
