<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { Account, Program, Slot } from '#core/catalogue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { draftNetwork, hostOf, pastedLinks, readLink, shopOf } from '#core/link-parts';
import { useCatalogue } from '../../data/catalogue.ts';
import { newId } from '../../data/random.ts';
import { useNotice } from '../../shell/notice.ts';
import { newNetwork } from '../newNetwork.ts';
import NetworkFacts from './NetworkFacts.vue';
import PartsTable from './PartsTable.vue';
import ProgramFields from './ProgramFields.vue';
import SlotFields from './SlotFields.vue';
import { seenParts } from './parts.ts';
import { useRegistering } from './registering.ts';

/** Registers a network from its links: parts, name, account, programs and slots in one page, then on to its postback. */
const catalogue = useCatalogue();
const notice = useNotice();
const router = useRouter();
const registering = useRegistering();
const problem = ref('');

const addresses = computed(() => pastedLinks(registering.text));
/** Those of the network of the first. */
const links = computed(() => {
  const owner = shopOf(hostOf(addresses.value[0] ?? ''));
  return addresses.value.filter((link) => shopOf(hostOf(link)) === owner);
});
const parts = computed(() =>
  links.value.length === 0
    ? []
    : seenParts(
        links.value.map((link) => readLink(link, catalogue.networks, catalogue.programs)),
        registering.roles,
      ),
);
const open = computed(() => parts.value.filter((part) => part.open).length);
/** A network that has these links already. */
const known = computed(() => readLink(links.value[0] ?? '', catalogue.networks).network);
const draft = computed(() =>
  links.value.length === 0
    ? undefined
    : draftNetwork(links.value, new Map(parts.value.map(({ name, role }) => [name, role]))),
);
const name = ref('');
const currency = ref(catalogue.settings.currency);
const zone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone);
const owner = ref(catalogue.by || 'me');
const slots = ref<Slot[]>([]);
const names = ref<Readonly<Record<string, string>>>({});
watch(
  draft,
  (now, before) => {
    if (!now) return;
    if (name.value === '' || name.value === before?.name) name.value = now.name;
    // What was said of a slot stays while it is one.
    slots.value = now.slots.map((slot) => slots.value.find((old) => old.name === slot.name) ?? slot);
  },
  { immediate: true },
);

const register = async () => {
  const found = draft.value;
  if (!found) return;
  const network = newNetwork({
    name: name.value,
    currency: currency.value,
    zone: zone.value,
    linkFormat: found.linkFormat,
    slots: [...slots.value],
  });
  const checked = checkRecord('network', JSON.parse(JSON.stringify(network)));
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  const programs = found.programs.map((program): Program => ({
    id: newId('prg'),
    network: network.id,
    name: (names.value[program.code + program.hosts.join()] ?? program.name).trim() || program.name,
    code: program.code,
    hosts: [...program.hosts],
    state: 'joined',
  }));
  const accounts = found.accounts.map((tag): Account => ({
    id: newId('acc'),
    network: network.id,
    tag,
    owner: owner.value.trim() || 'me',
  }));
  const step = await catalogue.save(
    { kind: 'network', value: checked.value },
    ...programs.map((value) => ({ kind: 'program' as const, value })),
    ...accounts.map((value) => ({ kind: 'account' as const, value })),
  );
  registering.done();
  notice.did(`${checked.value.name} is registered. Its links are recognised from now on.`, step);
  await router.replace({ name: 'first', params: { network: network.id } });
};
</script>

<template>
  <form class="register" @submit.prevent="register">
    <header>
      <h1>Register a network</h1>
      <text-link :to="{ name: 'programs', query: { by: 'hand' } }">No link at hand</text-link>
    </header>
    <v-textarea
      v-model="registering.text"
      class="mono links"
      label="Two or three of its tracking links"
      hint="To different shops, if there are"
      persistent-hint
      :rows="Math.min(4, Math.max(2, links.length))"
      wrap="off"
      no-resize
      spellcheck="false"
    />
    <p v-if="links.length < addresses.length" class="quiet" role="note">
      {{ addresses.length - links.length }} of other hosts are left out: one network is registered at a time.
    </p>
    <p v-if="known" class="quiet" role="note">
      These are links of {{ known.name }}, which is registered already.
      <text-link :to="`/programs/${known.id}`">Open {{ known.name }}</text-link>
    </p>
    <template v-else-if="draft">
      <section>
        <h2>What their parts are</h2>
        <p v-if="open > 0" class="bad" role="note">
          {{ open }} {{ open === 1 ? 'part is' : 'parts are' }} not known yet. Say what
          {{ open === 1 ? 'it is' : 'they are' }}, or leave {{ open === 1 ? 'it' : 'them' }}: what nobody
          knows is sent as it stands.
        </p>
        <parts-table :parts="parts" @correct="registering.say" />
      </section>
      <section>
        <h2>The network</h2>
        <network-facts v-model:name="name" v-model:currency="currency" v-model:zone="zone" />
      </section>
      <section>
        <h2>Your account</h2>
        <p v-if="draft.accounts.length === 0" class="bad" role="note">
          No part of its links is your account yet, so nobody can say whether a link credits you. Say above
          which it is.
        </p>
        <div v-else class="account">
          <code>{{ draft.accounts.join(', ') }}</code>
          <v-text-field v-model="owner" label="Credits" maxlength="80" />
        </div>
      </section>
      <section>
        <h2>Programs</h2>
        <program-fields v-model="names" :programs="draft.programs" />
      </section>
      <section>
        <h2>Sub-ID slots</h2>
        <slot-fields v-model="slots" />
      </section>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <div class="go">
        <v-btn type="submit" color="primary" size="default">Register {{ name || 'it' }}</v-btn>
        <span class="quiet">Then comes its postback address.</span>
      </div>
    </template>
    <p v-else-if="registering.text.trim() !== ''" class="bad" role="note">
      No web address is in it. Copy a tracking link at the network and paste it here.
    </p>
  </form>
</template>

<style scoped>
.register {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 14px;
  margin-bottom: 10px;
}
section {
  max-width: 900px;
  margin-top: 16px;
}
h2 {
  margin-bottom: 6px;
  font-size: 17px;
}
.account {
  display: grid;
  grid-template-columns: auto minmax(0, 260px);
  gap: 12px;
  align-items: center;
  justify-content: start;
}
.go {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-top: 18px;
}
p {
  margin: 6px 0;
}
.bad {
  color: var(--copper);
}
</style>
