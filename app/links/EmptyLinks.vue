<script setup lang="ts">
import { ref } from 'vue';
import { checkRecord, firstProblem, hostIn, newDomain } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import { usePaste } from '../shell/paste.ts';

/** What stands in the place of the list before there is a link: the first step. */
const catalogue = useCatalogue();
const paste = usePaste();
const host = ref('');
const problem = ref('');

const add = async () => {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const checked = checkRecord('domain', newDomain(newId('dom'), hostIn(host.value), zone));
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  await catalogue.saveRecord('domain', checked.value);
  await paste.goOn();
};
</script>

<template>
  <div class="empty">
    <template v-if="catalogue.domains.length === 0">
      <h2>First, your domain</h2>
      <p>
        Short links stand on a domain of your own. Point its DNS at the machine that runs the server, then
        name it here.
        <strong v-if="paste.untilDomain">What you pasted becomes its first short link.</strong>
      </p>
      <form @submit.prevent="add">
        <v-text-field
          v-model="host"
          label="Domain for short links"
          placeholder="see.nightledge.example"
          :error-messages="problem"
          autofocus
        />
        <v-btn type="submit" color="primary" size="default">{{
          paste.untilDomain ? 'Add domain and make the link' : 'Add domain'
        }}</v-btn>
      </form>
    </template>
    <template v-else>
      <h2>No links yet</h2>
      <p>
        Copy a tracking link at a network and paste it anywhere on this page. Enter makes it a short link on
        <code>{{ catalogue.domains[0]?.host }}</code>.
      </p>
    </template>
  </div>
</template>

<style scoped>
.empty {
  max-width: 480px;
  margin: 64px auto;
  padding: 0 20px;
}
form {
  display: flex;
  gap: 10px;
  align-items: flex-start;
}
</style>
