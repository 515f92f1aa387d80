<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Product } from '#core/catalogue';
import { foldText } from '#core/catalogue';
import { mostCompared, stalePlacements } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import { saveFile } from '../data/saveFile.ts';
import { useNotice } from '../shell/notice.ts';
import { count, dayMonth, money } from '../theme/formats.ts';
import CompareProducts from './CompareProducts.vue';
import { feedsWorker, useFeeds } from './feeds.ts';
import type { FoundProduct } from './feeds.worker.ts';
import PlaceTabs from './PlaceTabs.vue';
import ProductPane from './ProductPane.vue';
import { productRecords } from './takeProduct.ts';
import { dayAt, today } from '../data/today.ts';

/** Products: what was picked, and above all a search that also looks into the feeds of shops. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const feeds = useFeeds();
onMounted(feeds.refresh);

const mostFound = 15;
const asked = ref('');
const found = ref<readonly FoundProduct[]>([]);
const foundCount = ref(0);
let turn = 0;
watch([asked, () => feeds.feeds], async ([text]) => {
  const mine = ++turn;
  const answer =
    text.trim() === '' || feeds.feeds.length === 0
      ? { count: 0, found: [] }
      : await feedsWorker().find(text, mostFound);
  // An older answer that comes late is not to stand over a newer one.
  if (mine !== turn) return;
  found.value = answer.found;
  foundCount.value = answer.count;
});
const programName = (id: string | undefined) => catalogue.program(id)?.name ?? '';
const wordsIn = (product: Product) =>
  foldText(`${product.name} ${product.code} ${programName(product.program)}`);
const products = computed(() => {
  const words = foldText(asked.value).split(/\s+/);
  return catalogue.products
    .filter((product) => words.every((word) => wordsIn(product).includes(word)))
    .toSorted((a, b) => b.createdAt - a.createdAt);
});
const now = today();
const stale = (product: Product) => stalePlacements(product, now).length;
const hasEnded = ({ coupon }: Product) => coupon?.until !== undefined && coupon.until < now;
const chosen = computed(() =>
  catalogue.products.find(({ id }) => id === String(route.params['product'] ?? '')),
);
const compared = ref<readonly string[]>([]);
const comparing = computed(() => route.query['compare'] === '1' && compared.value.length > 1);
const opened = computed(() => chosen.value !== undefined || comparing.value);
const open = (id: string) => void router.push({ name: 'products', params: { product: id } });
const toList = () => void router.push({ name: 'products', params: { product: '' } });
const mark = (id: string, is: boolean | null) => {
  const others = compared.value.filter((other) => other !== id);
  compared.value = is ? [...others, id] : others;
};
const taken = (each: FoundProduct) =>
  catalogue.products.find(
    ({ program = '', code, page }) =>
      program === each.program &&
      (each.product.code === '' ? page === each.product.page : code === each.product.code),
  );
const take = async (each: FoundProduct) => {
  const known = taken(each);
  if (known) {
    open(known.id);
    return;
  }
  const feed = feeds.feeds.find(({ program }) => program === each.program);
  const { product, changes, why } = productRecords(each.product, each.program, dayAt(feed?.at ?? Date.now()));
  const step = await catalogue.save(...changes);
  notice.did(why === '' ? `${product.name} is picked.` : `${product.name} is picked. ${why}`, step);
  open(product.id);
};
const byHand = async () => {
  const name = asked.value.trim() || 'New product';
  const product: Product = { id: newId('pro'), name, code: '', page: '', createdAt: Date.now() };
  const step = await catalogue.saveRecord('product', product);
  notice.did(`${name} is added.`, step);
  asked.value = '';
  open(product.id);
};
const saveUnread = async (program: string, name: string) => {
  const file = await feedsWorker().unread(program);
  if (file) saveFile(`${name}-unread.csv`, 'text/csv', new Uint8Array(await file.arrayBuffer()));
};
const drop = async (program: string) => {
  await feeds.drop(program);
  notice.say('The feed is gone from this browser. Products that were picked stay.');
};
</script>

<template>
  <div class="view" :class="{ opened }">
    <section class="left" aria-label="Products">
      <place-tabs />
      <header>
        <h1>Products</h1>
        <v-btn class="quiet-button" @click="byHand">By hand</v-btn>
        <v-btn class="quiet-button" :to="{ name: 'feed' }">Bring a feed</v-btn>
      </header>
      <v-text-field
        v-model="asked"
        class="search"
        label="Find by name or code"
        type="search"
        autocomplete="off"
        hide-details
      />
      <p v-if="feeds.problem !== ''" class="bad" role="alert">{{ feeds.problem }}</p>
      <p v-if="catalogue.products.length === 0 && feeds.feeds.length === 0" class="quiet none">
        What cards and posts say of a product stands here once: name, picture, price, coupon. Bring a shop’s
        feed and pick from it, or write one by hand.
      </p>
      <p v-else-if="products.length === 0 && asked !== '' && foundCount === 0" class="quiet none">
        Nothing is called so{{ feeds.feeds.length > 0 ? ', in no feed either' : '' }}.
      </p>
      <p v-if="compared.length > 0" class="compare">
        <v-btn
          color="primary"
          :disabled="compared.length < 2 || compared.length > mostCompared"
          @click="router.push({ name: 'products', query: { compare: '1' } })"
          >Compare {{ compared.length }}</v-btn
        >
        <span class="quiet">{{
          compared.length < 2 ? 'Tick one more.' : compared.length > mostCompared ? 'Six at most.' : ''
        }}</span>
        <text-link @click="compared = []">Untick</text-link>
      </p>
      <ul v-if="products.length > 0">
        <li v-for="product in products" :key="product.id" :class="{ chosen: product.id === chosen?.id }">
          <v-checkbox-btn
            :model-value="compared.includes(product.id)"
            :aria-label="`Compare ${product.name}`"
            density="compact"
            @update:model-value="mark(product.id, $event)"
          />
          <a :href="`/place/products/${product.id}`" @click.prevent="open(product.id)">
            <strong>{{ product.name }}</strong>
            <span class="quiet">{{
              [
                product.price ? money(product.price.amount, product.price.currency) : 'no price',
                programName(product.program),
                product.code,
              ]
                .filter((text) => text !== '')
                .join(' · ')
            }}</span>
            <span v-if="stale(product) > 0" class="bad"
              >{{ count(stale(product)) }} {{ stale(product) === 1 ? 'place shows' : 'places show' }} what is
              no longer true</span
            >
            <span v-else-if="hasEnded(product)" class="bad">its coupon has ended</span>
          </a>
        </li>
      </ul>
      <template v-if="found.length > 0">
        <h2>In feeds, {{ count(foundCount) }} found</h2>
        <ul>
          <li v-for="each in found" :key="`${each.program} ${each.row}`">
            <div class="found">
              <strong>{{ each.product.name }}</strong>
              <span class="quiet">{{
                [
                  each.product.price
                    ? money(each.product.price.amount, each.product.price.currency)
                    : 'no price',
                  programName(each.program),
                  each.product.code,
                ]
                  .filter((text) => text !== '')
                  .join(' · ')
              }}</span>
            </div>
            <v-btn class="quiet-button" @click="take(each)">{{ taken(each) ? 'Open' : 'Pick' }}</v-btn>
          </li>
        </ul>
        <p v-if="foundCount > found.length" class="quiet none">
          The first {{ found.length }} are shown. One more word finds fewer.
        </p>
      </template>
      <section v-if="feeds.feeds.length > 0" class="feeds" aria-label="Feeds">
        <p v-for="feed in feeds.feeds" :key="feed.program" class="quiet">
          {{ programName(feed.program) || feed.file }}: {{ count(feed.products) }} products, brought
          {{ dayMonth(feed.at) }}.
          <text-link v-if="feed.unread > 0" @click="saveUnread(feed.program, feed.file)"
            >{{ count(feed.unread) }} unread rows</text-link
          >
          <text-link @click="drop(feed.program)">Remove</text-link>
        </p>
      </section>
    </section>
    <aside class="right" aria-label="Product">
      <text-link class="to-list" @click="toList">← Products</text-link>
      <compare-products v-if="comparing" :ids="compared" />
      <product-pane v-else-if="chosen" :key="chosen.id" :product="chosen" @removed="toList" />
      <p v-else-if="catalogue.products.length > 0" class="quiet nothing">
        Choose a product, and its card is made here. Tick two to six to compare them.
      </p>
    </aside>
  </div>
</template>

<style scoped src="./place.css"></style>
<style scoped>
.search {
  padding: 0 20px 12px;
}
.compare {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 0 20px 10px;
  margin: 0;
}
.feeds {
  padding: 14px 20px;
  font-size: 13px;
}
li :deep(.v-checkbox-btn) {
  flex: none;
}
h2 {
  padding: 16px 20px 6px;
}
</style>
