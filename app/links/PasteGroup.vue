<script setup lang="ts">
import { computed, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { Role } from '#core/catalogue';
import type { LinkParts } from '#core/link-parts';
import PartsTable from '../programs/register/PartsTable.vue';
import { seenParts } from '../programs/register/parts.ts';
import { useRegistering } from '../programs/register/registering.ts';
import { useTeaching } from '../programs/teach.ts';
import { count } from '../theme/formats.ts';

/** The pasted links of one network, or of one host nobody registered: what their parts are, to be corrected and learnt. */
const props = defineProps<{ title: string; links: readonly LinkParts[] }>();
const router = useRouter();
const registering = useRegistering();
const { teach } = useTeaching();
/** Corrected roles of a network nobody has taught yet. */
const said = shallowRef<ReadonlyMap<string, Role>>(new Map());

const network = computed(() => props.links[0]?.network);
/** A network that is known but not in the register yet; it is added with its first link. */
const ships = computed(() => network.value === undefined && props.links[0]?.known !== undefined);
const parts = computed(() => seenParts(props.links, said.value));
const correct = async (part: string, role: Role) => {
  if (network.value) await teach(network.value, part, role);
  else said.value = new Map([...said.value, [part, role]]);
};
const register = () => {
  registering.begin(props.links.map(({ link }) => link));
  for (const [part, role] of said.value) registering.say(part, role);
  return router.push({ name: 'register' });
};
</script>

<template>
  <section>
    <h2>
      {{ title }}
      <span class="quiet count"
        >{{ count(links.length) }} {{ links.length === 1 ? 'link' : 'links'
        }}{{
          network
            ? `, link format version ${network.linkFormat.version}`
            : ships
              ? ', joined with the first link'
              : ', no network of yours'
        }}</span
      >
    </h2>
    <parts-table v-if="parts.length > 0" :parts="parts" @correct="correct" />
    <p v-if="!network && !ships" class="register">
      <v-btn color="primary" @click="register">Register this network</v-btn>
      <span class="quiet">Then its links are recognised at once, and its sales can be matched.</span>
    </p>
  </section>
</template>

<style scoped>
section {
  margin-top: 18px;
}
.count {
  font-family: 'Figtree Variable', sans-serif;
  font-size: 14px;
}
.register {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 10px;
  margin: 8px 0;
}
</style>
