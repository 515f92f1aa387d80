<script setup lang="ts">
import { onUnmounted, ref, watch } from 'vue';
import { getPicture } from '../data/server.ts';

/** The picture of what a link leads to. The server fetches it, so that the shop does not see who looks, nor when. */
const props = defineProps<{ address: string; title: string }>();
const shown = ref('');
const missing = ref(false);

const forget = () => {
  if (shown.value !== '') URL.revokeObjectURL(shown.value);
  shown.value = '';
};
watch(
  () => props.address,
  async (address) => {
    forget();
    missing.value = false;
    try {
      const picture = URL.createObjectURL(await getPicture(address));
      if (address === props.address) shown.value = picture;
      else URL.revokeObjectURL(picture);
    } catch {
      missing.value = true;
    }
  },
  { immediate: true },
);
onUnmounted(forget);
</script>

<template>
  <p class="picture">
    <img v-if="shown !== ''" :src="shown" :alt="`Picture of ${title}`" @error="missing = true" />
    <a v-if="missing" :href="address" target="_blank" rel="noopener noreferrer">Its picture did not come</a>
  </p>
</template>

<style scoped>
.picture {
  min-height: 72px;
}
img {
  max-width: 160px;
  max-height: 96px;
  border-radius: 12px 3px;
}
a {
  color: inherit;
}
</style>
