<script setup lang="ts">
import { ref } from 'vue';
import type { Link } from '#core/catalogue';
import LinkSearch from './LinkSearch.vue';

/** The search for a link in a small window of its own, which a bookmarklet opens beside what is being written. */
const copied = ref<Link | undefined>();
const closeAfterMs = 900;
const done = (link: Link): void => {
  copied.value = link;
  // A browser that does not let it close leaves the words that say what happened.
  setTimeout(() => window.close(), closeAfterMs);
};
</script>

<template>
  <div class="window">
    <h1>Copy a link</h1>
    <link-search @copied="done" />
    <p v-if="copied" role="status">{{ copied.slug }} is on the clipboard: paste it where you write.</p>
  </div>
</template>

<style scoped>
.window {
  padding: 16px;
}
h1 {
  margin-bottom: 12px;
}
p {
  margin: 10px 0 0;
  color: var(--fern);
}
</style>
