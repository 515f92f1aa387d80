<script setup lang="ts">
import { computed, ref } from 'vue';
import type { RouteLocationRaw } from 'vue-router';
import { useRouter } from 'vue-router';
import type { PaysFigures, PromotionPage } from '#core/queries';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { today } from '../data/today.ts';
import { useNewest } from '../place/newest.ts';
import { useNotice } from '../shell/notice.ts';
import { count, money, percent, signedMoney } from '../theme/formats.ts';
import { useValueWords } from '../traffic/words.ts';
import { bandAxis } from './bandAxis.ts';
import BandCell from './BandCell.vue';
import CostEntry from './CostEntry.vue';
import DecidePage from './DecidePage.vue';
import PromotionEntry from './PromotionEntry.vue';
import { useSourceNames } from './sourceNames.ts';
import { bandOfAll, reasonOf, useCostWords, verdictNames, wholeMoney } from './words.ts';

/** One promotion: what was spent, what came and was earned, by its parts, and against the one before. */
const props = defineProps<{ promotion: string }>();
const catalogue = useCatalogue();
const journal = useJournal();
const router = useRouter();
const notice = useNotice();
const words = useCostWords();
const valueWords = useValueWords();
const sources = useSourceNames();
const currency = computed(() => catalogue.settings.currency);
const record = computed(() => catalogue.promotions.find(({ id }) => id === props.promotion));
const changing = ref(false);
const entering = ref(false);
const { found: page, loaded } = useNewest<PromotionPage | undefined>(
  () => [
    ...[journal.news, props.promotion, catalogue.promotions, catalogue.costs, catalogue.rates],
    ...[catalogue.links, catalogue.sources, currency.value],
  ],
  () => journalWorker.promotionPage({ id: props.promotion, currency: currency.value, now: Date.now() }),
  undefined,
);
const nameOf = (id: string): string => catalogue.promotions.find((one) => one.id === id)?.name ?? id;
const earned = ({ approved, worth }: PaysFigures): number => approved + worth;
/** What stands beside each other of this promotion and the one before. */
const compared = computed(() => {
  const [mine, theirs] = [page.value?.whole, page.value?.before?.whole];
  if (!mine) return [];
  const lines: [title: string, of: (figures: PaysFigures) => string][] = [
    ['spent', (one) => money(one.cost, currency.value)],
    ['visitors', (one) => count(one.visitors)],
    ['sales', (one) => count(one.conversions)],
    ['approved', (one) => money(one.approved, currency.value)],
    ['pending, at its worth', (one) => money(one.worth, currency.value)],
    ['sales reversed', (one) => count(one.reversed)],
    ['profit', (one) => (one.verdict === 'no rate' ? '?' : signedMoney(one.profit, currency.value))],
    ['profit, at worst and at best', (one) => (one.band ? bandOfAll(one, currency.value) : 'not known')],
  ];
  return lines.map(([title, of]) => ({ title, mine: of(mine), theirs: theirs && of(theirs) }));
});
const partTitles = { source: 'By source', link: 'By link', page: 'By page', country: 'By country' } as const;
const mostLines = 8;
const parts = computed(() =>
  (['source', 'link', 'page', 'country'] as const).flatMap((by) => {
    const lines = page.value?.parts[by] ?? [];
    return lines.length > 0
      ? [{ by, lines: lines.slice(0, mostLines), more: lines.length - mostLines, axis: bandAxis(lines) }]
      : [];
  }),
);
/** Where the visits and conversions behind a row are shown. */
const behind = (by: string, at: string): RouteLocationRaw => ({
  name: 'traffic',
  query: {
    ...{ by, from: page.value?.from, to: page.value?.to, at },
    with: `promotion:${props.promotion}`,
  },
});
const costs = computed(() =>
  catalogue.costs.filter(({ of }) => of.kind === 'promotion' && of.promotion === props.promotion),
);
const remove = async () => {
  const called = record.value?.name ?? '';
  await router.push({ name: 'promotions' });
  const step = await catalogue.save({ kind: 'promotion', value: null, id: props.promotion });
  notice.did(`${called} is taken away; its visits and costs stay.`, step);
};
</script>

<template>
  <decide-page :heading="record?.name ?? 'Promotion'" :about="record ? words.days(record) : ''">
    <template #actions>
      <text-link :to="{ name: 'promotions' }">All promotions</text-link>
      <template v-if="record">
        <text-link
          :to="{
            name: 'traffic',
            query: { by: 'source', from: page?.from, to: page?.to, with: `promotion:${record.id}` },
          }"
          >Visits and conversions behind it</text-link
        >
        <text-link @click="changing = true">Change it</text-link>
        <text-link @click="entering = true">Add a cost</text-link>
        <text-link v-if="costs.length === 0" @click="remove">Take it away</text-link>
      </template>
    </template>
    <p v-if="!record" class="quiet">There is no such promotion.</p>
    <template v-else>
      <v-dialog v-model="changing" width="auto" aria-label="Change a promotion">
        <v-card><promotion-entry :promotion="record" :sources="sources" @done="changing = false" /></v-card>
      </v-dialog>
      <v-dialog v-model="entering" width="auto" aria-label="Add a cost">
        <v-card>
          <cost-entry :sources="sources" :begin="` for promotion ${record.name}`" @done="entering = false" />
        </v-card>
      </v-dialog>
      <p v-if="record.note" class="quiet">{{ record.note }}</p>
      <p v-if="record.from > today()" class="quiet">It has not begun.</p>
      <v-skeleton-loader v-else-if="!loaded" type="image" aria-label="Loading" />
      <template v-else-if="page">
        <dl class="sums">
          <div>
            <dd>{{ money(page.whole.cost, currency) }}</dd>
            <dt>spent</dt>
          </div>
          <div>
            <dd>{{ money(earned(page.whole), currency) }}</dd>
            <dt>earned, {{ money(page.whole.worth, currency) }} of it pending</dt>
          </div>
          <div>
            <dd :class="page.whole.profit < 0 ? 'loses' : 'earns'">
              {{ page.whole.verdict === 'no rate' ? '?' : signedMoney(page.whole.profit, currency) }}
            </dd>
            <dt>{{ verdictNames[page.whole.verdict] }}: {{ reasonOf(page.whole, currency) }}</dt>
          </div>
          <div v-if="page.toCome && page.toCome.conversions >= 0.5">
            <dd>{{ wholeMoney(page.toCome.minor, currency) }}</dd>
            <dt>
              usually still to come, of {{ count(Math.round(page.toCome.conversions)) }} sales;
              {{ percent(page.whole.ripe / page.whole.visitors) }} are in
            </dt>
          </div>
        </dl>
        <p v-for="one in page.missing" :key="one.currency" class="asks" role="note">
          No rate of {{ one.currency }} up to {{ one.day }} is given: its money is in no figure here.
          <text-link :to="{ path: '/setup', hash: '#rates' }">Give one</text-link>
        </p>
        <p v-for="one in page.overlaps" :key="one.other" class="asks" role="note">
          {{ count(one.visits) }} of its visits, with
          {{
            one.conversions === 0
              ? 'no sale'
              : one.conversions === 1
                ? 'one sale'
                : `${count(one.conversions)} sales`
          }}, belong to
          <text-link :to="{ name: 'promotion', params: { promotion: one.other } }">{{
            nameOf(one.other)
          }}</text-link>
          too. Both have them on their pages; a sum of promotions has them once.
        </p>
        <h2>
          Against {{ page.before ? nameOf(page.before.id) : 'the one before' }}
          <span v-if="!page.before" class="quiet">No promotion began before it.</span>
        </h2>
        <small-table class="against" aria-label="Against the promotion before">
          <thead>
            <tr>
              <th><span class="visually-hidden">What</span></th>
              <th class="number">{{ record.name }}</th>
              <th v-if="page.before" class="number">{{ nameOf(page.before.id) }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="line in compared" :key="line.title">
              <td>{{ line.title }}</td>
              <td class="number">{{ line.mine }}</td>
              <td v-if="page.before" class="number">{{ line.theirs }}</td>
            </tr>
          </tbody>
        </small-table>
        <template v-for="{ by, lines, more, axis } in parts" :key="by">
          <h2>{{ partTitles[by] }}</h2>
          <small-table :aria-label="partTitles[by]">
            <thead>
              <tr>
                <th>{{ by.replace(/^./, (letter) => letter.toUpperCase()) }}</th>
                <th class="number">Visitors</th>
                <th class="number">Sales</th>
                <th class="number spent">Spent</th>
                <th class="number">Profit</th>
                <th>What a visitor leaves</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="line in lines" :key="line.value">
                <td class="name">{{ valueWords(by, line.value) }}</td>
                <td class="number">
                  <text-link :to="behind(by, line.value)">{{ count(line.visitors) }}</text-link>
                </td>
                <td class="number">
                  <text-link v-if="line.conversions > 0" :to="behind(by, line.value)">{{
                    count(line.conversions)
                  }}</text-link><template v-else>0</template>
                </td>
                <td class="number spent">{{ line.cost === 0 ? '—' : money(line.cost, currency) }}</td>
                <td class="number">
                  {{ line.verdict === 'no rate' ? '?' : signedMoney(line.profit, currency) }}
                </td>
                <td class="band"><band-cell :figures="line" :axis="axis" :currency="currency" /></td>
              </tr>
            </tbody>
          </small-table>
          <p v-if="more > 0" class="quiet">
            And {{ count(more) }} more:
            <text-link
              :to="{
                name: 'decide',
                query: { by, from: page.from, to: page.to, with: `promotion:${record.id}` },
              }"
              >all of them in What pays</text-link
            >
          </p>
        </template>
      </template>
    </template>
  </decide-page>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
h2 {
  margin: 16px 0 2px;
  font-size: 16px;
}
.small-table {
  max-width: 880px;
}
.small-table.against {
  width: fit-content;
}
.name {
  min-width: 92px;
  overflow-wrap: anywhere;
}
@media (max-width: 560px) {
  .spent {
    display: none;
  }
}
.band {
  width: 30%;
  min-width: 90px;
}
</style>
