<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Network } from '#core/catalogue';
import { checkRecord } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';

/** The account tags of a network: who or which site each belongs to. A link with another tag does not go live. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const tag = ref('');
const owner = ref('');
const problem = ref('');
const tags = computed(() => catalogue.accounts.filter((account) => account.network === props.network.id));

const add = async () => {
  if (tags.value.some((account) => account.tag === tag.value.trim())) {
    problem.value = `${tag.value.trim()} is registered already.`;
    return;
  }
  const checked = checkRecord('account', {
    id: newId('acc'),
    network: props.network.id,
    tag: tag.value,
    owner: owner.value,
  });
  problem.value = checked.ok ? '' : 'Give the tag, and whom or which site it credits.';
  if (!checked.ok) return;
  await catalogue.saveRecord('account', checked.value);
  tag.value = '';
  owner.value = '';
};
const remove = (id: string) => catalogue.save({ kind: 'account', value: null, id });
</script>

<template>
  <p v-if="tags.length === 0" class="quiet">None registered yet, so links with any tag go live.</p>
  <ul v-else>
    <li v-for="account in tags" :key="account.id">
      <code>{{ account.tag }}</code> <span>{{ account.owner }}</span>
      <text-link :aria-label="`Remove ${account.tag}`" @click="remove(account.id)"> × </text-link>
    </li>
  </ul>
  <form class="add" @submit.prevent="add">
    <v-text-field v-model="tag" label="Account tag" class="mono" />
    <v-text-field v-model="owner" label="Whom or which site it credits" />
    <v-btn type="submit" class="quiet-button" size="default">Register</v-btn>
  </form>
  <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
li {
  display: flex;
  gap: 12px;
  padding: 3px 0;
}
.add {
  display: flex;
  gap: 8px;
  max-width: 560px;
}
.bad {
  color: var(--copper);
}
</style>
