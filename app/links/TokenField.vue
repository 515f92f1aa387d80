<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { tokenNames } from '#core/hop';

/** A destination with tokens in it: they are put in where the cursor stands, by pressing them or by finishing a brace. */
const text = defineModel<string>({ required: true });
defineProps<{ label: string; rows: number }>();

const field = useTemplateRef<{ $el: HTMLElement }>('field');
const area = () => field.value?.$el.querySelector('textarea') ?? undefined;
/** Where the cursor stands; at the end until somebody puts it elsewhere. */
const cursor = ref<number>();
const keep = () => (cursor.value = area()?.selectionStart);

const at = computed(() => cursor.value ?? text.value.length);
/** A brace that is open before the cursor, with the letters typed since: `{cl`. */
const unfinished = computed(() => /\{[a-z]*$/.exec(text.value.slice(0, at.value))?.[0]);
const tokens = computed(() => {
  const all = tokenNames.map((name) => `{${name}}`);
  const fitting = all.filter((token) => token.startsWith(unfinished.value ?? ''));
  return fitting.length > 0 ? fitting : all;
});
const put = async (token: string) => {
  const from = at.value - (unfinished.value?.length ?? 0);
  text.value = text.value.slice(0, from) + token + text.value.slice(at.value);
  cursor.value = from + token.length;
  await nextTick();
  area()?.focus();
  area()?.setSelectionRange(cursor.value, cursor.value);
};
</script>

<template>
  <v-textarea
    ref="field"
    v-model="text"
    :label="label"
    class="mono"
    :rows="rows"
    auto-grow
    spellcheck="false"
    @keyup="keep"
    @click="keep"
    @input="keep"
  />
  <p class="tokens" :class="{ asks: unfinished }">
    <span class="quiet">{{ unfinished ? 'Which token?' : 'Filled at each click:' }}</span>
    <v-btn
      v-for="token in tokens"
      :key="token"
      class="mono token"
      variant="text"
      size="x-small"
      :aria-label="`Put ${token} in`"
      @mousedown.prevent
      @click="put(token)"
      >{{ token }}</v-btn
    >
  </p>
</template>

<style scoped>
.tokens {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 4px;
  margin: 4px 0 0;
  font-size: 13px;
}
.token {
  padding: 0 6px;
  color: var(--fern);
  font-size: 12px;
  letter-spacing: 0;
  text-transform: none;
}
.asks .token {
  background: var(--fern-soft);
}
</style>
