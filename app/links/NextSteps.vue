<script setup lang="ts">
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import type { Link } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useRegistering } from '../programs/register/registering.ts';
import { usePaste } from '../shell/paste.ts';

/** What comes after the first link of all: told with it, once. */
const props = defineProps<{ link: Link }>();
const emit = defineEmits<{ copy: [] }>();
const catalogue = useCatalogue();
const paste = usePaste();
const router = useRouter();
const network = computed(() => catalogue.network(props.link.network ?? ''));
const registering = useRegistering();
const register = () => {
  registering.begin([props.link.destination]);
  return router.push({ name: 'register' });
};
</script>

<template>
  <section class="next" aria-labelledby="h-next">
    <h3 id="h-next">Your first short link. What comes next:</h3>
    <ol>
      <li v-if="!network">
        <v-btn class="quiet-button" @click="register">Register its network</v-btn>
        so that its links are recognised and sales can be matched
      </li>
      <li v-else>
        <v-btn class="quiet-button" :to="{ name: 'first', params: { network: network.id } }"
          >Set the postback</v-btn
        >
        so that {{ network.name }} tells of each sale
      </li>
      <li>
        <v-btn class="quiet-button" @click="emit('copy')">Copy the short link</v-btn> and put it where people
        read
      </li>
    </ol>
    <v-btn class="quiet-button" @click="paste.first = ''">Done</v-btn>
  </section>
</template>

<style scoped>
.next {
  margin: 0 0 12px;
  padding: 12px 14px;
  background: var(--fern-soft);
  border-radius: var(--leaf-card);
}
h3 {
  margin: 0 0 8px;
  font-size: 15px;
}
ol {
  margin: 0 0 8px;
  padding-left: 20px;
}
li {
  padding: 3px 0;
}
</style>
