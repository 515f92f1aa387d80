<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import type { About } from '../data/server.ts';
import { getAbout, key, renewKey, setKey } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { moment } from '../theme/formats.ts';
import { records, whyNotSent } from '../waiting/words.ts';

/** The server this browser speaks to, and the key to it. */
const catalogue = useCatalogue();
const notice = useNotice();
const typedKey = ref('');
const about = shallowRef<About | undefined>();
const renewing = ref(false);
const origin = location.origin;
const words = computed(() => {
  if (catalogue.server === 'asking') return 'Asking it…';
  if (catalogue.server === 'up') return 'It answers and takes changes.';
  return whyNotSent(catalogue.server, catalogue.serverProblem);
});
const look = async () => {
  about.value = await getAbout().catch(() => undefined);
};
onMounted(look);
const saveKey = async () => {
  setKey(typedKey.value);
  typedKey.value = '';
  notice.say('The key is kept in this browser.');
  await look();
};
const renew = async () => {
  renewing.value = true;
  try {
    await renewKey();
    notice.say('There is a new key, kept in this browser. Other browsers need it too: npm run key shows it.');
  } catch {
    notice.say('The server did not answer, so the key is the one before. Try again.');
  }
  renewing.value = false;
};
</script>

<template>
  <section aria-labelledby="h-server">
    <h2 id="h-server">Server</h2>
    <p>
      <code>{{ origin }}</code> {{ words }}
    </p>
    <p v-if="catalogue.waiting.size > 0">
      <text-link to="/waiting">{{ records(catalogue.waiting.size) }} not with it yet</text-link>
    </p>
    <p v-if="about?.unnamedProxy" class="bad" role="alert">
      A proxy at {{ about.unnamedProxy.address }} forwards requests and is not named, so every visitor behind
      it has its address (last seen {{ moment(about.unnamedProxy.at) }}). Start the server with
      <code>TRUST_PROXY={{ about.unnamedProxy.address.replace('::ffff:', '') }}</code
      >. Until then visitors cannot be told apart, and nothing is limited by address.
    </p>
    <form class="line" @submit.prevent="saveKey">
      <v-text-field
        v-model="typedKey"
        :label="key === '' ? 'Key of the server' : 'Another key'"
        type="password"
        autocomplete="off"
        class="mono"
      />
      <v-btn type="submit" class="quiet-button" size="default" :disabled="typedKey.trim() === ''"
        >Keep key</v-btn
      >
    </form>
    <p class="quiet">
      The key lies in the server’s data folder, in the file <code>key</code>; <code>npm run key</code> shows
      it.
    </p>
    <p v-if="about?.keyIsGiven" class="quiet">It was given as FERNHOP_KEY and is changed there.</p>
    <div v-else-if="about">
      <v-btn class="quiet-button" :loading="renewing" @click="renew">Make a new key</v-btn>
      <span class="quiet"> The one before counts no longer, in whichever browser it is.</span>
    </div>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
.bad {
  color: var(--copper);
}
.line {
  display: flex;
  gap: 10px;
  align-items: flex-start;
}
</style>
