<script setup lang="ts">
import { computed } from 'vue';
import type { ClosedAnswer } from '#core/catalogue';

/** What answers while a link is closed: what stands elsewhere, a page of words, or another address. */
const answer = defineModel<ClosedAnswer | undefined>({ required: true });
const props = defineProps<{ label: string; otherwise: string }>();

const kinds = computed(() => [
  { value: '', title: props.otherwise },
  { value: 'page', title: 'A page with words of yours' },
  { value: 'address', title: 'Another address' },
]);
const kind = computed({
  get: () => answer.value?.kind ?? '',
  set: (value: string) =>
    (answer.value =
      value === 'page'
        ? { kind: 'page', words: '', askMail: false, consent: '' }
        : value === 'address'
          ? { kind: 'address', to: 'https://' }
          : undefined),
});
const page = computed(() => (answer.value?.kind === 'page' ? answer.value : undefined));
const put = (more: Partial<Extract<ClosedAnswer, { kind: 'page' }>>) => {
  if (page.value) answer.value = { ...page.value, ...more };
};
</script>

<template>
  <v-select v-model="kind" :items="kinds" :label="label" />
  <template v-if="page">
    <v-textarea
      :model-value="page.words"
      :label="`${label}: words`"
      rows="2"
      auto-grow
      @update:model-value="put({ words: $event })"
    />
    <v-checkbox
      :model-value="page.askMail"
      label="Ask for a mail address"
      @update:model-value="put({ askMail: $event === true })"
    />
    <v-textarea
      v-if="page.askMail"
      :model-value="page.consent"
      label="What they agree to"
      placeholder="You may write to me about this."
      persistent-placeholder
      rows="1"
      auto-grow
      @update:model-value="put({ consent: $event })"
    />
  </template>
  <v-text-field
    v-else-if="answer?.kind === 'address'"
    :model-value="answer.to"
    :label="`${label}: address`"
    class="mono"
    @update:model-value="answer = { kind: 'address', to: $event.trim() }"
  />
</template>
