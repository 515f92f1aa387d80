<script setup lang="ts">
import { newerReady, renew } from './renewal.ts';
</script>

<template>
  <div class="newer" role="status">
    <span
      >A newer Fernhop is here. It is used from the next start on, or at once: save what is open first.</span
    >
    <span class="buttons">
      <v-btn color="primary" @click="renew">Load it now</v-btn>
      <v-btn class="quiet-button" @click="newerReady = false">Later</v-btn>
    </span>
  </div>
</template>

<style scoped>
.newer {
  display: flex;
  align-items: center;
  justify-content: space-between;
  flex-wrap: wrap;
  gap: 6px 12px;
  padding: 8px 18px;
  background: var(--fern-soft);
  color: var(--ink);
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
