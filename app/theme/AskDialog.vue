<script setup lang="ts">
/** A question that has to be answered before anything goes on: what it is about, and its answers as buttons. */
defineProps<{ label: string }>();
const open = defineModel<boolean>({ required: true });
</script>

<template>
  <v-dialog v-model="open" max-width="460" role="alertdialog" :aria-label="label">
    <div class="ask" role="document">
      <h2><slot name="title" /></h2>
      <p><slot /></p>
      <div class="buttons"><slot name="answers" /></div>
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
  flex-wrap: wrap;
  gap: 8px;
}
</style>
