<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import { useNotice } from './notice.ts';

const notice = useNotice();
/** The queue shows what is added to it; what was said before it was loaded is added once it is there. */
const there = ref(false);
onMounted(() => (there.value = true));
const waiting = computed({
  get: () => (there.value ? notice.queue : []),
  set: (rest) => (notice.queue = rest),
});
const idOf = (item: object): string => ('id' in item ? String(item.id) : '');
</script>

<template>
  <v-snackbar-queue
    v-model="waiting"
    :timeout="8000"
    location="bottom"
    color="tape"
    display-strategy="overflow"
  >
    <template #actions="{ item, props: dismiss }">
      <v-btn
        v-if="notice.actionOf(idOf(item))"
        variant="text"
        v-bind="dismiss"
        @click="notice.actionOf(idOf(item))?.act()"
        >{{ notice.actionOf(idOf(item))?.words }}</v-btn
      >
    </template>
  </v-snackbar-queue>
</template>
