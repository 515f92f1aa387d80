<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { PlacedPicture } from '#core/placing';
import { saveFile } from '../../data/saveFile.ts';
import { getPicture } from '../../data/server.ts';
import { useNotice } from '../../shell/notice.ts';

/** The picture of a linked picture: where it lies, what it says to who does not see it, its size and its side. */
const picture = defineModel<PlacedPicture | undefined>({ required: true });
const props = defineProps<{
  /** Where a picture of what the link leads to lies, which is on somebody else's host. */
  address: string | undefined;
  slug: string;
  title: string;
}>();
const emit = defineEmits<{ copy: [] }>();
const notice = useNotice();

const host = computed(() => (props.address === undefined ? '' : new URL(props.address).host));
const ending = computed(
  () => /\.(?:jpe?g|png|webp|gif|avif)$/i.exec(new URL(props.address ?? 'a:').pathname)?.[0] ?? '.jpg',
);
const fileName = computed(() => `${props.slug}${ending.value.toLowerCase()}`);
const src = ref(fileName.value);
const alt = ref(props.title);
const width = ref<number | null>(null);
const height = ref<number | null>(null);
const side = ref<PlacedPicture['side']>('none');
/** Shown from where it lies: whoever reads the page asks there. */
const hotLinked = ref(false);
const shownFrom = computed(() => (hotLinked.value ? (props.address ?? '') : src.value.trim()));
watch(
  [shownFrom, alt, width, height, side],
  () => {
    picture.value = {
      src: shownFrom.value,
      alt: alt.value.trim(),
      ...(width.value !== null && { width: width.value }),
      ...(height.value !== null && { height: height.value }),
      side: side.value,
    };
  },
  { immediate: true },
);
const why = computed(() => {
  if (shownFrom.value === '')
    return 'Say where the picture lies: its file beside the article, or its address.';
  return alt.value.trim() === '' ? 'Say what the picture shows, for who does not see it.' : '';
});
const save = async () => {
  try {
    const found = await getPicture(props.address ?? '');
    saveFile(fileName.value, found.type, new Uint8Array(await found.arrayBuffer()));
  } catch (error) {
    notice.say(error instanceof Error ? error.message : String(error));
  }
};
const sides = [
  { value: 'none', title: 'in the line' },
  { value: 'left', title: 'left, text beside it' },
  { value: 'right', title: 'right, text beside it' },
];
</script>

<template>
  <form class="picture" @submit.prevent="emit('copy')">
    <v-text-field v-if="!hotLinked" v-model="src" label="File or address of the picture" class="mono" />
    <p v-if="address !== undefined" class="quiet">
      <text-link @click="save">Save the picture</text-link> as {{ fileName }} and put it beside the article.
    </p>
    <v-checkbox
      v-if="address !== undefined"
      v-model="hotLinked"
      :label="`Show it from ${host}: every reader asks there, and it may change or vanish`"
    />
    <v-text-field v-model="alt" label="What it shows" />
    <div class="sizes">
      <v-number-input v-model="width" :min="1" :max="9999" label="Width" />
      <v-number-input v-model="height" :min="1" :max="9999" label="Height" />
      <v-select v-model="side" :items="sides" label="Side" />
    </div>
    <p v-if="why !== ''" class="quiet" role="note">{{ why }}</p>
    <v-btn type="submit" color="primary" :disabled="why !== ''">Copy the picture</v-btn>
  </form>
</template>

<style scoped>
.picture {
  display: grid;
  gap: 8px;
  justify-items: start;
  margin-bottom: 10px;
}
.picture > .v-input {
  width: 100%;
}
.sizes {
  display: grid;
  grid-template-columns: 1fr 1fr 2fr;
  gap: 8px;
  width: 100%;
}
p {
  margin: 0;
  font-size: 13px;
}
</style>
