<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Product } from '#core/catalogue';
import { stalePlacements } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { dayMonth, money } from '../theme/formats.ts';
import CardMaker from './CardMaker.vue';
import ProductFields from './ProductFields.vue';
import { linkForPage } from './takeProduct.ts';
import { today } from '../data/today.ts';

/** A product: its card, where what is said of it is no longer true, and what is known of it. */
const props = defineProps<{ product: Product }>();
const emit = defineEmits<{ removed: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const editing = ref(props.product.page === '');
const link = computed(() => catalogue.link(props.product.link));
const stale = computed(() => stalePlacements(props.product, today()));
const couponEnd = computed(() => {
  const until = props.product.coupon?.until;
  return until !== undefined && until < today() ? until : '';
});
const where = (source: string) => (source === '' ? 'A place without a source' : source);
const mended = async (source: string) => {
  const { placed = [] } = props.product;
  const step = await catalogue.saveRecord('product', {
    ...props.product,
    placed: placed.filter((one) => one.source !== source),
  });
  notice.did(`${where(source)} is seen to.`, step);
};
const proposed = computed(() =>
  link.value ? undefined : linkForPage(props.product.page, { title: props.product.name }),
);
const makeLink = async () => {
  const found = proposed.value;
  if (!found?.link) return;
  const value: Product = { ...props.product, link: found.link.id };
  const step = await catalogue.save(...found.changes, { kind: 'product', value });
  notice.did(`${found.link.slug} is its link.`, step);
};
const remove = async () => {
  const step = await catalogue.save({ kind: 'product', value: null, id: props.product.id });
  notice.did(`${props.product.name} is removed.`, step);
  emit('removed');
};
</script>

<template>
  <div class="pane">
    <header>
      <h2>{{ product.name }}</h2>
      <v-btn class="quiet-button" :aria-expanded="editing" @click="editing = !editing">Edit</v-btn>
    </header>
    <ul v-if="stale.length > 0" class="stale" role="alert">
      <li v-for="one in stale" :key="one.source">
        <span
          ><b class="mono">{{ where(one.source) }}</b> shows
          <template v-if="one.price"
            >{{ money(one.price.amount, one.price.currency) }}, now
            {{
              product.price ? money(product.price.amount, product.price.currency) : 'no price is known'
            }}</template
          ><template v-if="one.price && one.coupon"> and </template
          ><template v-if="one.coupon">the code {{ one.coupon }}, which no longer holds</template>. Copied
          {{ dayMonth(one.at) }}.</span
        >
        <text-link @click="mended(one.source)">It is mended there</text-link>
      </li>
    </ul>
    <p v-if="couponEnd !== ''" class="bad" role="alert">
      Its coupon {{ product.coupon?.code }} ended on {{ couponEnd }} and stands on no new card.
    </p>
    <p v-if="!link && proposed" class="line">
      <template v-if="proposed.link"
        >It has no short link yet.
        <text-link @click="makeLink">{{
          proposed.changes.length === 0 ? `Use ${proposed.link.slug}` : 'Make one to its page'
        }}</text-link></template
      >
      <template v-else>{{ proposed.why }}</template>
    </p>
    <product-fields v-if="editing" :product="product" @done="editing = false" @remove="remove" />
    <card-maker v-if="link" :products="[product]" />
    <p v-if="link" class="quiet">
      Its link is <text-link :to="`/links/${link.id}`">{{ link.slug }}</text-link>.
    </p>
  </div>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 12px;
  padding: 16px 22px 24px;
}
header {
  display: flex;
  gap: 10px;
  align-items: start;
}
h2 {
  flex: 1;
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
.stale {
  display: grid;
  gap: 4px;
  margin: 0;
  padding: 10px 14px;
  list-style: none;
  color: var(--copper);
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.stale li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  justify-content: space-between;
}
.bad {
  color: var(--copper);
}
</style>
