<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Product } from '#core/catalogue';
import { isSourceName } from '#core/hop';
import type { CardLayout, CardProduct } from '#core/placing';
import { cardClip, cardLayouts, cardLookOf, cardLookProblems, comparisonClip } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import { getPicture } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import CardLookFields from './CardLookFields.vue';
import CardPreview from './CardPreview.vue';
import { today } from '../data/today.ts';
import { pictureFile, useCards } from './useCards.ts';

/** A card of a product, or several beside each other, as it is copied; drawn anew with every change. */
const props = defineProps<{ products: readonly Product[] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const { cardOf, placed } = useCards();

const layout = ref<CardLayout>('picture left');
const source = ref('');
/** Shown from the shop: whoever reads the page asks there. */
const hotLinked = ref(false);
const styling = ref(false);
const sourceProblem = computed(() =>
  source.value === '' || isSourceName(source.value)
    ? ''
    : 'A source is letters and digits, with - and _ between them, at most 64.',
);
const sources = computed(() =>
  [...new Set(catalogue.products.flatMap(({ placed: at = [] }) => at.map((one) => one.source)))]
    .filter((name) => name !== '')
    .sort(),
);
const withPicture = computed(() => props.products.filter(({ picture }) => picture !== undefined));
const pictureOf = (product: Product) =>
  product.picture === undefined
    ? undefined
    : { src: hotLinked.value ? product.picture : pictureFile(product), address: product.picture };
/** For looking at it, where the server fetches each picture. */
const pictures = computed(() =>
  Object.fromEntries(
    props.products.flatMap((product) => {
      const picture = pictureOf(product);
      return picture ? [[picture.src, picture.address]] : [];
    }),
  ),
);
const look = computed(() => cardLookOf(catalogue.settings));
const made = computed(() =>
  props.products.map((product) =>
    cardOf(product, sourceProblem.value === '' ? source.value : '', pictureOf(product)),
  ),
);
const problems = computed(() => [
  ...made.value.flatMap((card) => ('refused' in card ? [card.refused] : [])),
  ...cardLookProblems(look.value),
  ...(sourceProblem.value === '' ? [] : [sourceProblem.value]),
]);
const cards = computed(() => made.value.filter((card): card is CardProduct => !('refused' in card)));
const clip = computed(() => {
  const [first] = cards.value;
  if (!first || cards.value.length < props.products.length) return undefined;
  return props.products.length === 1
    ? cardClip(first, layout.value, look.value, today())
    : comparisonClip(cards.value, look.value, today());
});
const copy = async () => {
  if (!clip.value) return;
  await notice.copy(
    clip.value,
    props.products.length === 1 ? 'The card is copied.' : 'The comparison is copied.',
  );
  await placed(props.products, source.value);
};
const save = async () => {
  try {
    for (const product of withPicture.value) {
      const found = await getPicture(product.picture ?? '');
      saveFile(pictureFile(product), found.type, new Uint8Array(await found.arrayBuffer()));
    }
  } catch (error) {
    notice.say(error instanceof Error ? error.message : String(error));
  }
};
watch(
  () => props.products.map(({ id }) => id).join(' '),
  () => (styling.value = false),
);
</script>

<template>
  <section class="card" aria-label="Card">
    <div class="fields">
      <v-select v-if="products.length === 1" v-model="layout" :items="[...cardLayouts]" label="Layout" />
      <v-combobox
        :model-value="source"
        :items="sources"
        label="Where it will stand"
        placeholder="saturn-guide"
        persistent-placeholder
        class="mono"
        @update:model-value="source = ($event ?? '').trim()"
      />
      <v-btn color="primary" size="default" :disabled="!clip || problems.length > 0" @click="copy"
        >Copy {{ products.length === 1 ? 'card' : 'comparison' }}</v-btn
      >
    </div>
    <p v-for="problem in problems" :key="problem" class="bad" role="alert">{{ problem }}</p>
    <card-preview v-if="clip" :html="clip.html" :pictures="pictures" />
    <p v-if="withPicture.length > 0" class="line">
      <template v-if="!hotLinked">
        <text-link @click="save"
          >Save {{ withPicture.length === 1 ? 'the picture' : 'the pictures' }}</text-link
        >
        <span class="quiet"
          >and put {{ withPicture.length === 1 ? 'it' : 'them' }} beside the article as
          {{ withPicture.map(pictureFile).join(', ') }}</span
        >
      </template>
    </p>
    <v-checkbox
      v-if="withPicture.length > 0"
      v-model="hotLinked"
      label="Show pictures from the shop: every reader asks there, and they may change or vanish"
    />
    <p class="line">
      <text-link :aria-expanded="styling" @click="styling = !styling">Words and colours of cards</text-link>
    </p>
    <card-look-fields v-if="styling" @done="styling = false" />
  </section>
</template>

<style scoped>
.card {
  display: grid;
  gap: 10px;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  gap: 10px;
  align-items: start;
}
p {
  margin: 0;
}
.bad {
  color: var(--copper);
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 8px;
  font-size: 13px;
}
.line .quiet {
  overflow-wrap: anywhere;
}
</style>
