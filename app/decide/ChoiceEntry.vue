<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Choice, Link } from '#core/catalogue';
import { freshBranchId, sourceNames } from '#core/catalogue';
import type { Pays, PaysQuestion, Traffic } from '#core/queries';
import type { CatalogueChange } from '../data/catalogue.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { newId } from '../data/random.ts';
import { today } from '../data/today.ts';
import { useNewest } from '../place/newest.ts';
import { useNotice } from '../shell/notice.ts';
import { count, percent } from '../theme/formats.ts';
import { choiceNames } from './words.ts';

/** What is decided about a row, noted with what is known of it, and done to the links its visitors came by. */
const props = defineProps<{
  line: Pays['lines'][number];
  question: Pick<PaysQuestion, 'by' | 'from' | 'to' | 'where'>;
  name: string;
  currency: string;
}>();
const emit = defineEmits<{ done: [] }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
type Made = Choice['made'];
const made = ref<Made>(
  props.line.verdict === 'cut' ? 'cut' : props.line.verdict === 'scale' ? 'scale' : 'go on',
);
const kinds = (Object.keys(choiceNames) as Made[]).map((value) => ({ value, title: choiceNames[value] }));
const note = ref('');

/** Links of the row with the visits that came by them, its own and those of everybody. */
const { found, loaded } = useNewest<readonly [own: Traffic, all: Traffic] | undefined>(
  () => [journal.news, props.line.value],
  () => {
    const { by, from, to, where } = JSON.parse(JSON.stringify(props.question)) as typeof props.question; // as it was
    const narrowed = [...where.filter(({ of }) => of !== by), { of: by, values: [props.line.value] }];
    return Promise.all([
      journalWorker.traffic({ by: 'link', from, to, where: narrowed }),
      journalWorker.traffic({ by: 'link', from, to, where: [] }),
    ]);
  },
  undefined,
);
interface Road {
  readonly link: Link;
  readonly visits: number;
  readonly others: number;
}
const roads = computed((): Road[] => {
  const [own, all] = found.value ?? [];
  const visitsOf = new Map(all?.lines.map(({ value, requests }) => [value, requests.counted]));
  return (own?.lines ?? []).flatMap(({ value, requests }) => {
    const link = catalogue.link(value);
    if (!link || link.archived || requests.counted === 0) return [];
    return [{ link, visits: requests.counted, others: (visitsOf.get(value) ?? 0) - requests.counted }];
  });
});
const isSource = computed(() => props.question.by === 'source' && props.line.value !== '');
type Way = 'nothing' | 'gone' | 'link' | 'source';
const way = ref<Way>('nothing');
const ways = computed((): { value: Way; title: string }[] => [
  { value: 'nothing', title: 'Nothing: they stay as they are' },
  ...(isSource.value
    ? [{ value: 'source' as const, title: `Send visitors of ${props.name} to another link` }]
    : []),
  { value: 'link', title: 'Send all their visitors to another link' },
  { value: 'gone', title: 'Pause: they answer “gone”' },
]);
const chosen = ref<readonly string[] | undefined>();
/** Until links are chosen by hand: all of them where only this source is sent elsewhere, else those that others hardly use. */
const mostOthers = 0.1;
const picked = computed({
  get: () =>
    chosen.value ??
    roads.value
      .filter(
        ({ visits, others }) =>
          way.value === 'source' || props.question.by === 'link' || others <= visits * mostOthers,
      )
      .map(({ link }) => link.id),
  set: (ids: readonly string[]) => (chosen.value = ids),
});
const to = ref<string | null>(null);
const targets = computed(() =>
  catalogue.links
    .filter(({ id, archived }) => !archived && !picked.value.includes(id))
    .map(({ id, slug, title }) => ({ value: id, title: slug, props: { subtitle: title } }))
    .toSorted((a, b) => (a.title < b.title ? -1 : 1)),
);
const needsTarget = computed(() => way.value === 'link' || way.value === 'source');
const othersHit = computed(() =>
  way.value === 'gone' || way.value === 'link'
    ? roads.value
        .filter(({ link }) => picked.value.includes(link.id))
        .reduce((sum, { others }) => sum + others, 0)
    : 0,
);
const problem = computed(() => {
  if (way.value === 'nothing') return '';
  if (picked.value.length === 0) return 'Choose at least one link.';
  return needsTarget.value && to.value === null ? 'Choose where they go.' : '';
});
/** The source, and the slips of its name that count as it: their visitors stand in its row, so they go with the others. */
const namesOfSource = computed(() => {
  const nameOf = sourceNames(catalogue.sources);
  const slips = catalogue.sources
    .map(({ source }) => source)
    .filter((name) => nameOf(name) === props.line.value);
  return [...new Set([props.line.value, ...slips])];
});
/** A link as it is after what was chosen. */
const changed = (link: Link, target: Link | undefined): Link => {
  if (way.value !== 'source' || !target)
    return { ...link, archived: { at: Date.now(), ...(target && { to: target.id }) } };
  const branches = link.branches ?? [];
  const branch = {
    id: freshBranchId(branches),
    name: `${props.name}, sent elsewhere`,
    when: { sources: namesOfSource.value },
    destination: target.destination,
    weight: 1,
  };
  return { ...link, branches: [branch, ...branches] };
};
const save = async () => {
  if (problem.value) return;
  const target = needsTarget.value ? catalogue.link(to.value ?? undefined) : undefined;
  const { visitors, cost, profit, band } = props.line;
  const { by, from, to: until, where } = JSON.parse(JSON.stringify(props.question)) as typeof props.question; // as it is now
  const value: Choice = {
    id: newId('chc'),
    ...{ day: today(), made: made.value, by, value: props.line.value, name: props.name },
    where: where.map(({ of, values, not }) => ({
      of,
      values: [...values],
      ...(not && { not: true as const }),
    })),
    ...{ from, to: until, currency: props.currency, visitors, cost, profit },
    ...(band && { band: { low: band.low, high: band.high } }),
    note: note.value.trim(),
  };
  const links =
    way.value === 'nothing'
      ? []
      : roads.value
          .filter(({ link }) => picked.value.includes(link.id))
          .map(({ link }): CatalogueChange => ({ kind: 'link', value: changed(link, target) }));
  const step = await catalogue.save({ kind: 'choice', value }, ...links);
  emit('done');
  const did =
    links.length === 0
      ? ''
      : ` ${count(links.length)} ${links.length === 1 ? 'link' : 'links'} ${target ? `now ${links.length === 1 ? 'goes' : 'go'} to ${target.slug}` : 'paused'}.`;
  notice.did(`Noted.${did}`, step);
};
</script>

<template>
  <form aria-label="Decide" @submit.prevent="save">
    <h2>{{ name }}</h2>
    <v-select v-model="made" :items="kinds" label="What you decide" autofocus />
    <v-text-field
      v-model="note"
      label="Why, for later"
      placeholder="It may be left empty"
      persistent-placeholder
      maxlength="500"
    />
    <template v-if="!loaded || roads.length > 0">
      <v-select
        v-model="way"
        :items="ways"
        :disabled="!loaded"
        :label="!loaded ? 'Its links' : roads.length === 1 ? 'Its link' : `Its ${count(roads.length)} links`"
      />
      <template v-if="way !== 'nothing'">
        <v-autocomplete v-if="needsTarget" v-model="to" :items="targets" label="They go to" />
        <ul class="roads" aria-label="Links">
          <li v-for="{ link, visits, others } in roads" :key="link.id">
            <v-checkbox v-model="picked" :value="link.id" :label="link.slug" />
            <span class="quiet"
              >{{ count(visits) }} visits<template v-if="others > 0"
                >, {{ count(others) }} of others</template
              ></span
            >
          </li>
        </ul>
        <p v-if="othersHit > 0" class="asks" role="note">
          {{ count(othersHit) }} visits of these days came by these links from elsewhere:
          {{ percent(othersHit / (othersHit + line.visits)) }} of all they had. They are sent away too.
        </p>
      </template>
    </template>
    <p v-if="problem" class="asks" role="status">{{ problem }}</p>
    <v-btn type="submit" color="primary" :disabled="problem !== ''">{{
      way === 'nothing' ? 'Note it' : 'Note it and change the links'
    }}</v-btn>
  </form>
</template>

<style scoped src="./figures.css"></style>
<style scoped>
form {
  display: grid;
  gap: 12px;
  width: min(520px, 86vw);
  max-height: 84vh;
  padding: 16px;
  overflow: auto;
}
form > .v-btn {
  justify-self: start;
}
.roads {
  margin: 0;
  padding: 0;
  list-style: none;
  max-height: 240px;
  overflow: auto;
}
li {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
}
p {
  margin: 0;
}
</style>
