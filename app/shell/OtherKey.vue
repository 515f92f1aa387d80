<script setup lang="ts">
import { computed } from 'vue';
import { offeredKey, setKey } from '../data/server.ts';
import AskDialog from '../theme/AskDialog.vue';

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
  <ask-dialog v-model="open" label="Another key">
    <template #title>This address carries another key</template>
    The key kept in this browser works. Take the other one only if you opened this address yourself, from the
    line that your server printed.
    <template #answers>
      <v-btn color="primary" autofocus @click="open = false">Keep mine</v-btn>
      <v-btn class="quiet-button" @click="take">Take the other</v-btn>
    </template>
  </ask-dialog>
</template>
