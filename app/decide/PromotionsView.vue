<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import type { PromotionFigures } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { today } from '../data/today.ts';
import { useNewest } from '../place/newest.ts';
import { count, money, signedMoney } from '../theme/formats.ts';
import DecidePage from './DecidePage.vue';
import PromotionEntry from './PromotionEntry.vue';
import { useSourceNames } from './sourceNames.ts';
import { useCostWords } from './words.ts';

/** Every promotion, the newest first, with all of its visits. */
const catalogue = useCatalogue();
const journal = useJournal();
const router = useRouter();
const words = useCostWords();
const sources = useSourceNames();
const currency = computed(() => catalogue.settings.currency);
const entering = ref(false);
const { found, loaded } = useNewest<readonly PromotionFigures[]>(
  () => [journal.news, catalogue.promotions, catalogue.costs, catalogue.rates, currency.value],
  () => journalWorker.promotions({ currency: currency.value, now: Date.now() }),
  [],
);
const rows = computed(() => {
  const known = new Map(found.value.map((one) => [one.id, one]));
  return catalogue.promotions
    .toSorted((a, b) => (a.from < b.from ? 1 : a.from > b.from ? -1 : a.name < b.name ? -1 : 1))
    .map((promotion) => ({ promotion, figures: known.get(promotion.id) }));
});
const made = (id: string) => {
  entering.value = false;
  void router.push({ name: 'promotion', params: { promotion: id } });
};
</script>

<template>
  <decide-page heading="Promotions">
    <template #actions>
      <text-link :to="{ name: 'decide' }">What pays</text-link>
      <text-link @click="entering = true">Make a promotion</text-link>
    </template>
    <v-dialog v-model="entering" width="auto" aria-label="Make a promotion">
      <v-card><promotion-entry :sources="sources" @done="made" /></v-card>
    </v-dialog>
    <div v-if="rows.length > 0" class="table-scroll" tabindex="0" role="region" aria-label="All promotions">
      <small-table aria-label="Promotions">
        <thead>
          <tr>
            <th>Promotion</th>
            <th>Days</th>
            <th class="number">Visitors</th>
            <th class="number">Spent</th>
            <th class="number">Earned</th>
            <th class="number">Profit</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ promotion, figures } in rows" :key="promotion.id">
            <td>
              <text-link :to="{ name: 'promotion', params: { promotion: promotion.id } }">{{
                promotion.name
              }}</text-link>
            </td>
            <td>{{ words.days(promotion) }}</td>
            <template v-if="figures">
              <td class="number">{{ count(figures.whole.visitors) }}</td>
              <td class="number">{{ money(figures.whole.cost, currency) }}</td>
              <td class="number">{{ money(figures.whole.approved + figures.whole.worth, currency) }}</td>
              <td class="number">
                {{ figures.whole.verdict === 'no rate' ? '?' : signedMoney(figures.whole.profit, currency) }}
              </td>
            </template>
            <td v-else colspan="4" class="quiet">
              {{ promotion.from > today() ? 'has not begun' : loaded ? '' : '…' }}
            </td>
          </tr>
        </tbody>
      </small-table>
    </div>
    <p v-else class="quiet">
      None yet. A promotion gathers sources, links and pages of one effort on its days: what they cost and
      brought is seen together.
    </p>
    <p v-if="rows.length > 1" class="quiet">
      Each has all of its visits. Where two share some, both count them here; in
      <text-link :to="{ name: 'decide', query: { by: 'promotion' } }">What pays by promotion</text-link> each
      counts once.
    </p>
  </decide-page>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
.table-scroll {
  max-width: 880px;
  overflow-x: auto;
}
</style>
