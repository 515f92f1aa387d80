<script setup lang="ts">
import { useNotice } from './notice.ts';

const notice = useNotice();
const takeBack = () => {
  notice.undo?.();
  notice.shown = false;
};
</script>

<template>
  <v-snackbar v-model="notice.shown" :timeout="8000" location="bottom" color="tape" class="notice">
    {{ notice.text }}
    <template v-if="notice.undo" #actions>
      <v-btn variant="text" @click="takeBack">Undo</v-btn>
    </template>
  </v-snackbar>
</template>
