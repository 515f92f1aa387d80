<script setup lang="ts">
import { defineAsyncComponent, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef } from 'vue';

/**
 * What its parent is or does, while a mouse rests on it or the keyboard is there. Made only then: a list has hundreds, and an
 * empty hint is nothing a screen reader should come by.
 */
// Loaded when the first is asked for.
const VTooltip = defineAsyncComponent(() => import('vuetify/components/VTooltip').then((of) => of.VTooltip));
const mark = useTemplateRef('mark');
const parent = shallowRef<HTMLElement | undefined>();
const open = ref(false);
const delayMs = 400;
let timer: ReturnType<typeof setTimeout> | undefined;

const show = (event: Event) => {
  if (event instanceof PointerEvent && event.pointerType !== 'mouse') return;
  if (event.type === 'focusin' && !parent.value?.matches(':focus-visible, :has(:focus-visible)')) return;
  clearTimeout(timer);
  timer = setTimeout(() => (open.value = true), delayMs);
};
const hide = () => {
  clearTimeout(timer);
  open.value = false;
};
const onKey = ({ key }: KeyboardEvent) => key === 'Escape' && hide();
const listeners = [
  ['pointerenter', show],
  ['focusin', show],
  ['pointerleave', hide],
  ['focusout', hide],
  ['pointerdown', hide],
] as const;

onMounted(() => {
  parent.value = mark.value?.parentElement ?? undefined;
  for (const [name, does] of listeners) parent.value?.addEventListener(name, does);
  parent.value?.addEventListener('keydown', onKey);
});
onBeforeUnmount(() => {
  hide();
  for (const [name, does] of listeners) parent.value?.removeEventListener(name, does);
  parent.value?.removeEventListener('keydown', onKey);
});
</script>

<template>
  <span ref="mark" hidden />
  <v-tooltip
    v-if="open && parent"
    :model-value="true"
    :activator="parent"
    :open-on-hover="false"
    location="bottom"
    max-width="300"
    @update:model-value="hide"
    ><slot
  /></v-tooltip>
</template>
