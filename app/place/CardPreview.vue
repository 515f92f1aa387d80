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
  const made = new DOMParser().parseFromString(props.html, 'text/html');
  const rules = [...made.querySelectorAll('style')].map((style) => style.textContent);
  for (const style of made.querySelectorAll('style')) style.remove();
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
  const styles = [...made.body.querySelectorAll<HTMLElement>('[style]')].map(
    (element) => [element, element.getAttribute('style') ?? ''] as const,
  );
  for (const [element] of styles) element.removeAttribute('style');
  const sheet = new CSSStyleSheet();
  sheet.replaceSync(rules.join(''));
  root.adoptedStyleSheets = [sheet];
  root.replaceChildren(...made.body.childNodes);
  for (const [element, style] of styles) element.style.cssText = style;
  for (const { img, src } of pictures) {
    const address = props.pictures[src];
    if (address === undefined || fetched.has(address)) continue;
    const blob = await getPicture(address).catch(() => undefined);
    if (mine !== turn) return;
    if (!blob) continue;
    fetched.set(address, URL.createObjectURL(blob));
    img.setAttribute('src', fetched.get(address) ?? '');
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
