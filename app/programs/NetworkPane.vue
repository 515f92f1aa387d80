<script setup lang="ts">
import { computed } from 'vue';
import type { Network } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import Versions from '../waiting/Versions.vue';
import AccountTags from './AccountTags.vue';
import LinkFormatTable from './LinkFormatTable.vue';
import OwnPage from './postback/OwnPage.vue';
import PostbackAddress from './postback/PostbackAddress.vue';
import PostbackFields from './postback/PostbackFields.vue';
import PostbackList from './postback/PostbackList.vue';
import PostbackTrust from './postback/PostbackTrust.vue';
import ProgramRegister from './ProgramRegister.vue';
import SlotsTable from './SlotsTable.vue';

/** Everything of one network. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const waiting = computed(() => catalogue.waiting.get(props.network.id));
</script>

<template>
  <div class="pane">
    <header>
      <h2>{{ network.name }}</h2>
      <span class="quiet">{{ network.currency }}, days in {{ network.zone }}</span>
    </header>
    <versions v-if="waiting?.theirs" :waiting="waiting" />
    <p v-else-if="waiting?.refusal" class="bad" role="alert">{{ waiting.refusal.message }}</p>

    <section>
      <h3 class="caps">Postback address</h3>
      <postback-address :network="network" />
    </section>
    <section>
      <h3 class="caps">What it calls each value</h3>
      <postback-fields :network="network" />
    </section>
    <section>
      <h3 class="caps">
        Last postbacks
        <router-link :to="{ name: 'first', params: { network: network.id } }">Step by step</router-link>
        <router-link :to="{ name: 'bench', params: { network: network.id } }">Send a sample</router-link>
      </h3>
      <postback-list :network="network" />
    </section>
    <section>
      <h3 class="caps">Who may send</h3>
      <postback-trust :network="network" />
      <own-page :network="network" />
    </section>

    <section>
      <h3 class="caps">Programs</h3>
      <program-register :network="network" />
    </section>
    <section>
      <h3 class="caps">Sub-ID slots</h3>
      <slots-table :network="network" />
    </section>
    <section>
      <h3 class="caps">Account tags</h3>
      <account-tags :network="network" />
    </section>
    <section>
      <h3 class="caps">Link format, version {{ network.linkFormat.version }}</h3>
      <link-format-table :network="network" />
    </section>
  </div>
</template>

<style scoped>
.pane {
  flex: 1;
  overflow: auto;
  padding: 16px 22px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
section {
  margin-top: 18px;
}
h3 {
  margin: 0 0 4px;
}
h3 a {
  margin-left: 10px;
  letter-spacing: 0;
  text-transform: none;
  color: var(--fern);
}
</style>
