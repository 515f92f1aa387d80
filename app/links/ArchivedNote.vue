<script setup lang="ts">
import { computed, defineAsyncComponent } from 'vue';
import type { Link } from '#core/catalogue';
import { answeringLink } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { dayMonth } from '../theme/formats.ts';

const StandsOn = defineAsyncComponent(() => import('./StandsOn.vue'));

/** That a link is archived, and what its address answers since. */
const props = defineProps<{ link: Link }>();
const catalogue = useCatalogue();
const answering = computed(() => answeringLink(props.link, ({ archived }) => archived, catalogue.link));
const bringBack = () => {
  const { archived: _, ...rest } = props.link;
  return catalogue.saveRecord('link', rest);
};
</script>

<template>
  <p v-if="link.archived" class="archived" role="note">
    <strong>Archived on {{ dayMonth(link.archived.at) }}.</strong>
    <template v-if="answering">
      Its address answers as
      <router-link :to="{ name: 'links', params: { link: answering.id } }">{{ answering.title }}</router-link>
      (<code>{{ answering.slug }}</code
      >).
    </template>
    <template v-else-if="link.archived.to">
      It was to answer as another link, which does not answer any more: visitors are told that it is gone.
    </template>
    <template v-else>Visitors are told that it is gone (410).</template>
    <text-link @click="bringBack">Bring back</text-link>
  </p>
  <stands-on v-if="link.archived" :key="link.id" :links="[link.id]" before="nothing" />
</template>

<style scoped>
.archived {
  margin: 0 0 10px;
  padding: 8px 12px;
  background: var(--sunk);
  border-radius: var(--leaf-card);
}
a {
  color: var(--fern);
}
</style>
