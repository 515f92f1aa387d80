<script setup lang="ts">
import { computed } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import CardMaker from './CardMaker.vue';

/** Several products beside each other. */
const props = defineProps<{ ids: readonly string[] }>();
const catalogue = useCatalogue();
const products = computed(() =>
  props.ids.flatMap((id) => catalogue.products.find((product) => product.id === id) ?? []),
);
</script>

<template>
  <div class="several">
    <h2>{{ products.length }} compared</h2>
    <card-maker v-if="products.length > 1" :products="products" />
  </div>
</template>

<style scoped>
.several {
  display: grid;
  gap: 12px;
  padding: 16px 22px 24px;
}
</style>
