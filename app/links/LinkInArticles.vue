<script setup lang="ts">
import { ref } from 'vue';
import type { Link } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

/** Words that are linked to a link in articles, and addresses that it takes the place of. */
const props = defineProps<{ link: Link }>();
const emit = defineEmits<{ done: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const words = ref((props.link.keywords ?? []).map(({ text }) => text));
const forms = ref(props.link.keywords?.every((each) => each.forms === true) ?? true);
const exact = ref(props.link.keywords?.some((each) => each.exact === true) ?? false);
const replaces = ref([...(props.link.replaces ?? [])]);
const problem = ref('');
const trimmed = (list: readonly string[]) => [...new Set(list.map((each) => each.trim()).filter(Boolean))];
const keep = async () => {
  const keywords = trimmed(words.value).map((text) => ({
    text,
    ...(forms.value && { forms: true }),
    ...(exact.value && { exact: true }),
  }));
  const addresses = trimmed(replaces.value);
  const wrong = addresses.find((address) => !/^https?:\/\/[^\s/]+\S*$/.test(address));
  if (wrong !== undefined) {
    problem.value = `${wrong} is no address. It begins with https://.`;
    return;
  }
  const other = catalogue.links.find(
    (link) =>
      link.id !== props.link.id &&
      !link.archived &&
      link.keywords?.some(({ text }) =>
        keywords.some((keyword) => keyword.text.toLowerCase() === text.toLowerCase()),
      ),
  );
  const { keywords: _1, replaces: _2, ...rest } = props.link;
  const step = await catalogue.saveRecord('link', {
    ...rest,
    ...(keywords.length > 0 && { keywords }),
    ...(addresses.length > 0 && { replaces: addresses }),
  });
  emit('done');
  notice.did(
    other
      ? `Kept. ${other.slug} has one of these words too: where it is read, you are asked which link it becomes.`
      : 'Articles are read by these words from now on.',
    step,
  );
};
</script>

<template>
  <form class="in-articles" aria-label="In articles" @submit.prevent="keep">
    <v-combobox
      v-model="words"
      label="Keywords"
      placeholder="type one, then Enter"
      multiple
      chips
      closable-chips
      hide-no-data
    />
    <v-checkbox v-model="forms" label="Their regular forms too, such as plurals" />
    <v-checkbox v-model="exact" label="Only with these capitals" />
    <v-combobox
      v-model="replaces"
      label="Addresses it takes the place of, besides the page it leads to"
      placeholder="https://…"
      multiple
      chips
      closable-chips
      hide-no-data
      :error-messages="problem"
    />
    <v-btn type="submit" color="primary">Keep</v-btn>
  </form>
</template>

<style scoped>
.in-articles {
  display: grid;
  gap: 6px;
  justify-items: start;
  margin-top: 12px;
}
.in-articles > :deep(.v-input) {
  width: 100%;
}
</style>
