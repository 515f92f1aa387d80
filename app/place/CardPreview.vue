<script setup lang="ts">
import { onMounted, onUnmounted, useTemplateRef, watch } from 'vue';
import { getPicture } from '../data/server.ts';

/**
 * A card just as it is copied. It stands in a tree of its own, where no rule of this application reaches it; its styles are set one
 * by one, as the page's policy allows none that come with markup.
 */
const props = defineProps<{
  html: string;
  /** Addresses of pictures by where the card has them: the server fetches these, so that the shop does not see who looks. */
  pictures: Readonly<Record<string, string>>;
}>();
const place = useTemplateRef<HTMLElement>('place');
let root: ShadowRoot | undefined;
const fetched = new Map<string, string>();
let turn = 0;

const draw = async () => {
  if (!root) return;
  const mine = ++turn;
  // Quotes inside of values are escaped, so these are attributes and elements, and nothing else.
  const rules = [...props.html.matchAll(/<style>(.*?)<\/style>/gs)].map(([, text = '']) => text);
  const markup = props.html.replaceAll(/<style>.*?<\/style>/gs, '').replaceAll(' style="', ' data-style="');
  const made = new DOMParser().parseFromString(markup, 'text/html');
  const pictures = [...made.querySelectorAll('img')].map((img) => ({
    img,
    src: img.getAttribute('src') ?? '',
  }));
  // Nothing is asked for at the shop's while the card is only looked at.
  for (const { img, src } of pictures) {
    const shown = fetched.get(props.pictures[src] ?? '');
    if (shown === undefined) img.removeAttribute('src');
    else img.setAttribute('src', shown);
  }
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(rules.join(''));
  root.adoptedStyleSheets = [sheet];
  root.replaceChildren(...made.body.childNodes);
  for (const element of root.querySelectorAll<HTMLElement>('[data-style]')) {
    element.style.cssText = element.dataset['style'] ?? '';
    delete element.dataset['style'];
  }
  for (const address of new Set(pictures.map(({ src }) => props.pictures[src] ?? ''))) {
    if (address === '') continue;
    if (!fetched.has(address)) {
      const blob = await getPicture(address).catch(() => undefined);
      if (mine !== turn) return;
      if (blob) fetched.set(address, URL.createObjectURL(blob));
    }
    const shown = fetched.get(address);
    for (const { img, src } of pictures)
      if (props.pictures[src] === address && shown !== undefined) img.setAttribute('src', shown);
  }
};
onMounted(() => {
  root = place.value?.attachShadow({ mode: 'open' });
  void draw();
});
watch(
  () => props.html,
  () => void draw(),
);
onUnmounted(() => {
  turn += 1;
  for (const url of fetched.values()) URL.revokeObjectURL(url);
});
</script>

<template>
  <div ref="place" class="preview" inert></div>
</template>

<style scoped>
.preview {
  padding: 2px 14px;
  overflow: hidden;
  background: #fff;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
</style>
