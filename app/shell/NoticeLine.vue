<script setup lang="ts">
import { useNotice } from './notice.ts';

const notice = useNotice();
const act = () => {
  const { action } = notice;
  notice.shown = false;
  action?.act();
};
</script>

<template>
  <v-snackbar v-model="notice.shown" :timeout="8000" location="bottom" color="tape" class="notice">
    {{ notice.text }}
    <template v-if="notice.action" #actions>
      <v-btn variant="text" @click="act">{{ notice.action.words }}</v-btn>
    </template>
  </v-snackbar>
</template>
