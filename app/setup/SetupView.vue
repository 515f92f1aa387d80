<script setup lang="ts">
import { computed, ref } from 'vue';
import { checkRecord, firstProblem, hostIn, newDomain } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useKeptWhileEdited } from '../data/keptWhileEdited.ts';
import { newId } from '../data/random.ts';
import AuditSection from './AuditSection.vue';
import EvidenceSection from './EvidenceSection.vue';
import DomainCard from './DomainCard.vue';
import WaitingListSection from './WaitingListSection.vue';
import FaultsSection from './FaultsSection.vue';
import PlacingSection from './PlacingSection.vue';
import RatesSection from './RatesSection.vue';
import ServerSection from './ServerSection.vue';
import ClassificationSection from './ClassificationSection.vue';
import StorageSection from './StorageSection.vue';

const catalogue = useCatalogue();
const { shown: domains, setEditing } = useKeptWhileEdited(() => catalogue.domains);
const host = ref('');
const problem = ref('');
const currency = computed({
  get: () => catalogue.settings.currency,
  set: (value: string) => {
    const next = value.trim().toUpperCase();
    if (/^[A-Z]{3}$/.test(next))
      void catalogue.saveRecord('settings', { ...catalogue.settings, currency: next });
  },
});
const addDomain = async () => {
  const zone = Intl.DateTimeFormat().resolvedOptions().timeZone;
  const checked = checkRecord('domain', newDomain(newId('dom'), hostIn(host.value), zone));
  problem.value = firstProblem(checked);
  if (!checked.ok) return;
  if (catalogue.domains.some((domain) => domain.host === checked.value.host)) {
    problem.value = 'This is already one of your domains.';
    return;
  }
  await catalogue.saveRecord('domain', checked.value);
  host.value = '';
};
</script>

<template>
  <div class="setup">
    <h1>Setup</h1>
    <faults-section />
    <section id="domains" aria-labelledby="h-domains">
      <h2 id="h-domains">Domains</h2>
      <p class="quiet">Short links stand on these. Each points by DNS at the machine that runs the server.</p>
      <domain-card
        v-for="domain in domains"
        :key="domain.id"
        :domain="domain"
        @editing="setEditing(domain.id, $event)"
      />
      <form class="line" @submit.prevent="addDomain">
        <v-text-field
          v-model="host"
          label="Domain for short links"
          placeholder="see.nightledge.example"
          class="mono"
          :error-messages="problem"
        />
        <v-btn type="submit" color="primary" size="default">Add domain</v-btn>
      </form>
    </section>
    <section aria-labelledby="h-you">
      <h2 id="h-you">You</h2>
      <v-text-field
        :model-value="catalogue.by"
        label="Your name, written beside your changes"
        @update:model-value="catalogue.setBy($event)"
      />
      <v-text-field v-model.lazy="currency" label="Your currency" maxlength="3" />
    </section>
    <section aria-labelledby="h-pages">
      <h2 id="h-pages">Shops’ pages</h2>
      <v-checkbox
        :model-value="catalogue.settings.readPages ?? false"
        label="When a page becomes a link, the server may read its title, description and picture"
        @update:model-value="
          catalogue.saveRecord('settings', { ...catalogue.settings, readPages: $event === true })
        "
      />
    </section>
    <placing-section />
    <rates-section />
    <classification-section />
    <waiting-list-section />
    <storage-section />
    <server-section />
    <evidence-section />
    <audit-section />
    <p class="licences">
      <text-link href="/licences.txt">Licences of what Fernhop is made of</text-link>
    </p>
  </div>
</template>

<style scoped>
.setup {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
section,
.setup > :deep(section) {
  display: grid;
  gap: 10px;
  max-width: 640px;
  margin-top: 20px;
}
p {
  margin: 0;
}
.licences {
  margin-top: 20px;
}
.line {
  display: flex;
  gap: 10px;
  align-items: flex-start;
}
</style>
