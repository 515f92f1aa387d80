<script setup lang="ts">
import { computed } from 'vue';
import { offeredKey, setKey } from '../data/server.ts';

/** Asks before the key in an address takes the place of one that is in use. */
const open = computed({
  get: () => offeredKey.value !== '',
  set: (stays: boolean) => {
    if (!stays) offeredKey.value = '';
  },
});
const take = () => {
  setKey(offeredKey.value);
  offeredKey.value = '';
};
</script>

<template>
  <v-dialog v-model="open" max-width="460" role="alertdialog" aria-label="Another key">
    <div class="ask" role="document">
      <h2>This address carries another key</h2>
      <p>
        The key kept in this browser works. Take the other one only if you opened this address yourself, from
        the line that your server printed.
      </p>
      <div class="buttons">
        <v-btn color="primary" autofocus @click="open = false">Keep mine</v-btn>
        <v-btn class="quiet-button" @click="take">Take the other</v-btn>
      </div>
    </div>
  </v-dialog>
</template>

<style scoped>
.ask {
  padding: 22px;
  background: var(--surface);
  color: var(--ink);
  border-radius: var(--leaf-card);
}
h2 {
  margin: 0;
  font-family: var(--serif);
  font-size: 21px;
  font-weight: 500;
}
p {
  margin: 8px 0 16px;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
