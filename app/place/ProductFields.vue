<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Product } from '#core/catalogue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { readAmount, writeAmount } from '#core/values';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import DayField from '../theme/DayField.vue';
import { today } from '../data/today.ts';

/** What is known of a product. */
const props = defineProps<{ product: Product }>();
const emit = defineEmits<{ done: []; remove: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const began = catalogue.rowNow(props.product.id);
const { price, coupon } = props.product;
const draft = ref({
  name: props.product.name,
  code: props.product.code,
  page: props.product.page,
  picture: props.product.picture ?? '',
  alt: props.product.alt ?? '',
  about: props.product.about ?? '',
  program: props.product.program ?? '',
  currency: price?.currency ?? catalogue.settings.currency,
  amount: price ? writeAmount(price.amount, price.currency) : '',
  list: price?.list === undefined ? '' : writeAmount(price.list, price.currency),
  day: price?.day ?? today(),
  coupon: coupon?.code ?? '',
  until: coupon?.until ?? '',
});
const wasPrice = draft.value.amount;
/** A price that was just typed is one of today, until somebody says otherwise. */
const typePrice = (text: string) => {
  draft.value.amount = text;
  if (text !== wasPrice) draft.value.day = today();
};
const programs = computed(() => [
  { value: '', title: 'nobody that is registered' },
  ...catalogue.programs.map(({ id, name }) => ({ value: id, title: name })),
]);
const read = computed(() => {
  const given = draft.value;
  const plain = (text: string) => text.trim().replace(',', '.');
  const amount = plain(given.amount) === '' ? undefined : readAmount(plain(given.amount), given.currency);
  const list = plain(given.list) === '' ? undefined : readAmount(plain(given.list), given.currency);
  if (amount && !amount.ok) return { problem: firstProblem(amount) };
  if (list && !list.ok) return { problem: firstProblem(list) };
  if (list && !amount) return { problem: 'A higher price stands only beside the price.' };
  if (amount?.ok && given.day === '') return { problem: 'A price needs the day on which it was found.' };
  const {
    price: _,
    coupon: __,
    picture: ___,
    alt: ____,
    about: _____,
    program: ______,
    ...rest
  } = props.product;
  const checked = checkRecord('product', {
    ...rest,
    name: given.name,
    code: given.code.trim(),
    page: given.page.trim(),
    ...(given.program !== '' && { program: given.program }),
    ...(given.picture.trim() !== '' && { picture: given.picture.trim() }),
    ...(given.alt.trim() !== '' && { alt: given.alt }),
    ...(given.about.trim() !== '' && { about: given.about.trim() }),
    ...(amount?.ok && {
      price: {
        amount: amount.value,
        currency: given.currency,
        day: given.day,
        ...(list?.ok && { list: list.value }),
      },
    }),
    ...(given.coupon.trim() !== '' && {
      coupon: { code: given.coupon, ...(given.until !== '' && { until: given.until }) },
    }),
  });
  return checked.ok ? { product: checked.value, problem: '' } : { problem: firstProblem(checked) };
});
const save = async () => {
  const { product } = read.value;
  if (!product) return;
  const step = await catalogue.saveRecord('product', product, began);
  notice.did(`${product.name} is changed.`, step);
  emit('done');
};
</script>

<template>
  <form @submit.prevent="save">
    <v-text-field v-model="draft.name" label="Name" class="wide" />
    <v-text-field v-model="draft.page" label="Its page at the shop" class="wide mono" />
    <v-select v-model="draft.program" :items="programs" label="Sold by" />
    <v-text-field v-model="draft.code" label="Code" class="mono" />
    <v-text-field :model-value="draft.amount" label="Price" @update:model-value="typePrice" />
    <v-text-field v-model="draft.currency" label="Currency" maxlength="3" />
    <v-text-field v-model="draft.list" label="Higher price" />
    <day-field v-model="draft.day" label="Price of" />
    <v-text-field v-model="draft.coupon" label="Coupon" class="mono" />
    <day-field v-model="draft.until" label="Coupon until" />
    <v-text-field v-model="draft.picture" label="Address of its picture" class="wide mono" />
    <v-text-field v-model="draft.alt" label="What the picture shows" :placeholder="draft.name" class="wide" />
    <v-textarea v-model="draft.about" label="A few sentences" rows="3" auto-grow class="wide" />
    <p v-if="read.problem !== ''" class="bad wide" role="alert">{{ read.problem }}</p>
    <div class="line wide">
      <v-btn type="submit" color="primary" :disabled="read.problem !== ''">Save</v-btn>
      <v-btn class="quiet-button" @click="emit('done')">Cancel</v-btn>
      <text-link @click="emit('remove')">Remove the product</text-link>
    </div>
  </form>
</template>

<style scoped>
form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 14px;
  align-items: center;
}
p {
  margin: 0;
}
.bad {
  color: var(--copper);
}
</style>
