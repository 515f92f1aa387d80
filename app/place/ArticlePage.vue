<script setup lang="ts">
import { onBeforeUnmount, ref, useTemplateRef, watch } from 'vue';
import type { Find } from '#core/articles';
import { findLook } from './findWords.ts';

/** An article as it reads, with what was found marked. It runs nothing and fetches nothing: a frame of its own without scripts. */
const props = defineProps<{
  /** The article as a page, with a `data-find` for each find. */
  page: string;
  finds: readonly Find[];
  states: readonly ('accepted' | 'refused' | 'open')[];
  chosen: number;
}>();
const emit = defineEmits<{ choose: [index: number] }>();
const frame = useTemplateRef<HTMLIFrameElement>('frame');
const height = ref(400);

const style = () => {
  const own = getComputedStyle(document.documentElement);
  const of = (name: string) => own.getPropertyValue(name).trim();
  return `
    :root { color-scheme: ${document.documentElement.classList.contains('dark') ? 'dark' : 'normal'}; }
    body { margin: 0; padding: 26px 34px 40px; font: 17px/1.65 ${of('--serif') || 'Georgia, serif'}; color: ${of('--ink')}; background: ${of('--surface')}; overflow-wrap: anywhere; }
    h1, h2, h3 { line-height: 1.25; font-weight: 550; }
    a { color: inherit; text-decoration-color: ${of('--ink-two')}; }
    pre, code { font-size: 14px; white-space: pre-wrap; }
    table { border-collapse: collapse; } td, th { padding: 4px 8px; border: 1px solid ${of('--line')}; }
    .picture { display: inline-block; padding: 14px 18px; font: 13px sans-serif; color: ${of('--ink-two')}; background: ${of('--sunk')}; border-radius: 4px 1px; }
    [data-find] { color: inherit; background: none; border-radius: 4px 1px; cursor: pointer; scroll-margin: 80px; }
    div[data-find] { margin: 0 0 12px; padding: 4px 8px; font-style: italic; }
    [data-find].chance { background: ${of('--fern-soft')}; box-shadow: inset 0 -2px ${of('--fern')}; }
    [data-find].word { box-shadow: none; border-bottom: 2px dashed ${of('--fern')}; }
    [data-find].fault { background: ${of('--copper-soft')}; box-shadow: inset 0 -2px ${of('--copper')}; }
    [data-find].accepted { background: ${of('--fern-soft')}; box-shadow: inset 0 -3px ${of('--fern')}; border-bottom: 0; }
    [data-find].refused { background: none; box-shadow: none; border-bottom: 1px dotted ${of('--line')}; }
    [data-find].refused:is(div) { opacity: 0.45; }
    [data-find].chosen { outline: 2px solid ${of('--fern')}; outline-offset: 1px; }
    [data-find].fault.chosen { outline-color: ${of('--copper')}; }
  `;
};
const marksIn = (page: Document) => [...page.querySelectorAll<HTMLElement>('[data-find]')];
const draw = () => {
  const page = frame.value?.contentDocument;
  if (!page) return;
  for (const mark of marksIn(page)) {
    const at = Number(mark.dataset['find']);
    const find = props.finds[at];
    mark.className = find
      ? [findLook(find), props.states[at] ?? '', at === props.chosen ? 'chosen' : ''].join(' ')
      : '';
  }
};
const measure = () => {
  const page = frame.value?.contentDocument;
  if (page?.body) height.value = Math.max(200, Math.ceil(page.body.scrollHeight) + 4);
};
let watcher: ResizeObserver | undefined;
const loaded = () => {
  const own = frame.value?.contentWindow as (Window & typeof globalThis) | null | undefined;
  const page = frame.value?.contentDocument;
  if (!own || !page?.body) return;
  const sheet = new own.CSSStyleSheet();
  sheet.replaceSync(style());
  page.adoptedStyleSheets = [sheet];
  page.addEventListener('click', (event) => {
    // Nothing in it leads away.
    event.preventDefault();
    const mark = (event.target as Element | null)?.closest<HTMLElement>('[data-find]');
    if (mark) emit('choose', Number(mark.dataset['find']));
  });
  draw();
  measure();
  watcher?.disconnect();
  watcher = new ResizeObserver(measure);
  watcher.observe(page.body);
};
onBeforeUnmount(() => watcher?.disconnect());
watch([() => props.states, () => props.chosen, () => props.finds], draw);
watch(
  () => props.chosen,
  (at) => {
    const page = frame.value?.contentDocument;
    const mark = page && marksIn(page).find((each) => Number(each.dataset['find']) === at);
    mark?.scrollIntoView({ block: 'center', behavior: 'instant' });
  },
);
</script>

<template>
  <iframe
    ref="frame"
    class="page"
    title="The article as it reads"
    sandbox="allow-same-origin"
    referrerpolicy="no-referrer"
    :srcdoc="page"
    :style="{ height: `${height}px` }"
    @load="loaded"
  />
</template>

<style scoped>
.page {
  display: block;
  width: 100%;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
  background: var(--surface);
}
</style>
