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
const pages = ref(of('page').map((one) => one.page));
const from = ref(props.promotion?.from ?? today());
const until = ref(props.promotion?.until ?? '');
const note = ref(props.promotion?.note ?? '');
const beginnings = computed(() =>
  begins.value
    .split(/[,\s]+/)
    .map((part) => part.replace(/\*$/, ''))
    .filter((part) => part !== ''),
);
/** What the beginnings take by now, so that a slip is seen. */
const taken = computed(() => {
  if (beginnings.value.length === 0) return '';
  const found = props.sources.filter((name) => beginnings.value.some((begin) => name.startsWith(begin)));
  const [shown, more] = [found.slice(0, 5).join(', '), found.length - 5];
  return found.length === 0
    ? 'No source begins so yet.'
    : `By now: ${shown}${more > 0 ? ` and ${more} more` : ''}`;
});
const value = computed(() => ({
  id,
  name: name.value.trim(),
  takes: [
    ...beginnings.value.map((begin) => ({ kind: 'sources' as const, begins: begin })),
    ...named.value.map((source) => ({ kind: 'source' as const, source })),
    ...links.value.map((link) => ({ kind: 'link' as const, link })),
    ...pages.value.map((page) => ({ kind: 'page' as const, page: page.trim() })),
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
/** Pages whose links were read; others are typed. */
const knownPages = computed(() =>
  catalogue.pages.filter(({ by }) => by === 'crawl').map(({ name: address }) => address),
);
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
      :hint="taken"
      persistent-hint
      :hide-details="taken === ''"
    />
    <v-autocomplete v-model="named" :items="sources" label="Sources by name" multiple chips closable-chips />
    <v-autocomplete v-model="links" :items="linkItems" label="Links" multiple chips closable-chips />
    <v-combobox
      v-model="pages"
      :items="knownPages"
      label="Pages with its links"
      multiple
      chips
      closable-chips
    />
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
