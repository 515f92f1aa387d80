<script setup lang="ts">
import { ref } from 'vue';
import { checkRecord } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newNetwork } from './newNetwork.ts';

const emit = defineEmits<{ added: [id: string]; cancel: [] }>();
const catalogue = useCatalogue();
const name = ref('');
const host = ref('');
const slot = ref('');
const currency = ref(catalogue.settings.currency);
const zone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone);
const problem = ref('');

const add = async () => {
  const slotName = slot.value.trim();
  const network = newNetwork({
    name: name.value,
    currency: currency.value.trim().toUpperCase(),
    zone: zone.value.trim(),
    linkFormat: {
      version: 1,
      hosts: host.value.trim() === '' ? [] : [host.value.trim().toLowerCase()],
      path: '/**',
      parameters: slotName === '' ? [] : [{ name: slotName, role: 'slot' }],
    },
    slots:
      slotName === ''
        ? []
        : [{ name: slotName, length: 100, fill: '{click}', allowed: 'any', merchant: false }],
  });
  const checked = checkRecord('network', network);
  problem.value = checked.ok ? '' : checked.problems.map((p) => p.message).join(' ');
  if (!checked.ok) return;
  await catalogue.saveRecord('network', checked.value);
  emit('added', network.id);
};
</script>

<template>
  <form class="add" @submit.prevent="add">
    <h2>Add a network</h2>
    <v-text-field v-model="name" label="Name" autofocus />
    <v-text-field v-model="host" label="Host of its tracking links" class="mono" />
    <v-text-field v-model="slot" label="Parameter that takes the click ID" class="mono" />
    <v-text-field v-model="currency" label="Currency it pays in" maxlength="3" />
    <v-text-field v-model="zone" label="Time zone of its days" />
    <p v-if="problem" class="problem" role="alert">{{ problem }}</p>
    <div class="buttons">
      <v-btn type="submit" color="primary">Add network</v-btn>
      <v-btn class="quiet-button" @click="emit('cancel')">Cancel</v-btn>
    </div>
  </form>
</template>

<style scoped>
.add {
  display: grid;
  gap: 10px;
  max-width: 420px;
  padding: 16px 22px;
}
.buttons {
  display: flex;
  gap: 8px;
}
.problem {
  margin: 0;
  color: var(--copper);
}
</style>
