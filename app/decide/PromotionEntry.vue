<script setup lang="ts">
import { computed, ref } from 'vue';
import { checkRecord } from '#core/catalogue';
import type { Promotion } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import { today } from '../data/today.ts';
import { useNotice } from '../shell/notice.ts';
import DayField from '../theme/DayField.vue';

/** What belongs to a promotion, and on which days. */
const props = defineProps<{ promotion?: Promotion | undefined; sources: readonly string[] }>();
const emit = defineEmits<{ done: [id: string] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const of = <K extends Promotion['takes'][number]['kind']>(kind: K) =>
  (props.promotion?.takes ?? []).filter(
    (one): one is Extract<Promotion['takes'][number], { kind: K }> => one.kind === kind,
  );
const id = props.promotion?.id ?? newId('prm');
const name = ref(props.promotion?.name ?? '');
const begins = ref(
  of('sources')
    .map((one) => `${one.begins}*`)
    .join(', '),
);
const named = ref(of('source').map((one) => one.source));
const links = ref(of('link').map((one) => one.link));
const pages = ref(
  of('page')
    .map((one) => one.page)
    .join('\n'),
);
const from = ref(props.promotion?.from ?? today());
const until = ref(props.promotion?.until ?? '');
const note = ref(props.promotion?.note ?? '');
const parts = (text: string, between: RegExp): string[] =>
  text
    .split(between)
    .map((part) => part.trim())
    .filter((part) => part !== '');
const value = computed(() => ({
  id,
  name: name.value.trim(),
  takes: [
    ...parts(begins.value, /[,\s]+/).map((part) => ({
      kind: 'sources' as const,
      begins: part.replace(/\*$/, ''),
    })),
    ...named.value.map((source) => ({ kind: 'source' as const, source })),
    ...links.value.map((link) => ({ kind: 'link' as const, link })),
    ...parts(pages.value, /\s+/).map((page) => ({ kind: 'page' as const, page })),
  ],
  from: from.value,
  ...(until.value !== '' && { until: until.value }),
  note: note.value.trim(),
}));
const checked = computed(() => checkRecord('promotion', value.value));
/** Nothing is asked about before anything is typed. */
const problem = computed(() => {
  if (checked.value.ok || name.value.trim() === '') return '';
  return checked.value.problems[0]?.message ?? '';
});
const linkItems = computed(() =>
  catalogue.links.map(({ id, slug, title }) => ({ value: id, title: slug, subtitle: title })),
);
const save = async () => {
  if (!checked.value.ok) return;
  const { name: called } = checked.value.value;
  const step = await catalogue.saveRecord('promotion', checked.value.value);
  emit('done', id);
  notice.did(props.promotion ? `${called} is changed.` : `${called} is made.`, step);
};
</script>

<template>
  <form aria-label="Promotion" @submit.prevent="save">
    <v-text-field v-model="name" label="Name" maxlength="80" autofocus />
    <v-text-field
      v-model="begins"
      label="Sources that begin with"
      placeholder="oct-*, flyer-*"
      persistent-placeholder
    />
    <v-autocomplete v-model="named" :items="sources" label="Sources by name" multiple chips closable-chips />
    <v-autocomplete v-model="links" :items="linkItems" label="Links" multiple chips closable-chips />
    <v-textarea v-model="pages" label="Pages with its links, one address a line" rows="2" auto-grow />
    <div class="days">
      <day-field v-model="from" label="First day" />
      <day-field v-model="until" label="Last day, if it ends" />
    </div>
    <v-text-field v-model="note" label="Note" maxlength="500" />
    <p class="asks" role="status">{{ problem }}</p>
    <v-btn type="submit" color="primary" :disabled="!checked.ok">{{
      promotion ? 'Change it' : 'Make it'
    }}</v-btn>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 10px;
  width: min(520px, 86vw);
  padding: 16px;
  justify-items: start;
}
form > :not(.v-btn) {
  width: 100%;
}
.days {
  display: flex;
  gap: 10px;
}
.asks {
  margin: 0;
  min-height: 1.3em;
  color: var(--copper);
}
</style>
