<script setup lang="ts">
/** Name of a network, the currency it pays in, and the zone its days are counted in. */
const name = defineModel<string>('name', { required: true });
const currency = defineModel<string>('currency', { required: true });
const zone = defineModel<string>('zone', { required: true });
const names = new Intl.DisplayNames(undefined, { type: 'currency' });
const currencies = Intl.supportedValuesOf('currency').map((value) => ({
  value,
  title: `${value}, ${names.of(value) ?? value}`,
}));
const zones = [...new Set(['UTC', zone.value, ...Intl.supportedValuesOf('timeZone')])];
</script>

<template>
  <div class="facts">
    <v-text-field v-model="name" label="Name" maxlength="80" />
    <v-autocomplete v-model="currency" :items="currencies" label="Pays in" auto-select-first />
    <v-autocomplete v-model="zone" :items="zones" label="Counts its days in" auto-select-first />
  </div>
</template>

<style scoped>
.facts {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(210px, 1fr));
  gap: 10px;
}
</style>
