<script setup lang="ts">
import { element } from '#core/catalogue';
import { computed, ref } from 'vue';
import type { Network } from '#core/catalogue';
import { useCatalogue } from '../../data/catalogue.ts';
import MoreText from '../../theme/MoreText.vue';
import { useNotice } from '../../shell/notice.ts';
import { originOf } from './address.ts';

/** What to put into pages of one's own, where no network would report: a script on two pages, or a pixel on one. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const notice = useNotice();
const event = ref('lead');
const origin = computed(() => originOf(catalogue.domains[0]));
const escaped = (text: string) => text.replace(/[^\w-]/g, '');
const landing = computed(() => `<script src="${origin.value}/thanks.js"><\/script>`);
const thanks = computed(
  () =>
    `<script src="${origin.value}/thanks.js" data-key="${props.network.postback.pixelKey}" data-event="${escaped(event.value)}"><\/script>`,
);
const pixel = computed(
  () =>
    `<img src="${origin.value}/pixel/${props.network.postback.pixelKey}.gif?event=${escaped(event.value)}&amp;click=" alt="" width="1" height="1">`,
);
</script>

<template>
  <more-text summary="For pages of your own: sign-ups, or things you sell yourself">
    <p>
      Let a link lead to your page with <code>?click={click}</code>. The script keeps that click for the
      visit; on the page that thanks, it tells what happened. Its key is public, so what it tells stays
      unverified: it stands in the ledger and counts for nothing.
    </p>
    <v-text-field v-model="event" class="event" label="What happens there" maxlength="80" />
    <template
      v-for="one in [
        ['On the page the link leads to', landing],
        ['On the page that thanks; add data-amount, data-currency, data-txn where you have them', thanks],
        ['Or, without scripts, where your shop can write the click ID after click=', pixel],
      ]"
      :key="one[0]"
    >
      <div class="quiet">{{ one[0] }}</div>
      <div class="snippet">
        <code>{{ one[1] }}</code>
        <v-btn class="quiet-button" @click="notice.copy(element(one[1]), 'It is copied.')">Copy</v-btn>
      </div>
    </template>
  </more-text>
</template>

<style scoped>
p {
  max-width: 620px;
  margin: 6px 0;
}
.event {
  max-width: 300px;
  margin: 8px 0;
}
.snippet {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 8px;
}
.snippet code {
  flex: 1;
  padding: 6px 10px;
  font-size: 12px;
  overflow-wrap: anywhere;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
</style>
