<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import type { Find, FindKind } from '#core/articles';
import { findKinds } from '#core/articles';
import { useCatalogue } from '../data/catalogue.ts';
import { useLinkFacts } from '../links/linkRows.ts';
import { count, perClick } from '../theme/formats.ts';
import { acceptWords, findLook, kindWords } from './findWords.ts';

/** What was found in an article, in its order, each to be accepted or refused. */
const props = defineProps<{
  finds: readonly Find[];
  states: readonly ('accepted' | 'refused' | 'open')[];
  chosen: number;
  /** The text a find stands in, so that what it changes can be shown. */
  text: string;
}>();
const emit = defineEmits<{
  choose: [index: number];
  change: [finds: readonly Find[], into: 'accepted' | 'refused' | 'open'];
  never: [find: Find];
  make: [find: Find];
}>();
const catalogue = useCatalogue();
const { epc } = useLinkFacts();

const kind = ref<FindKind | ''>('');
const kinds = computed(() =>
  findKinds
    .map((value) => ({ value, all: props.finds.filter((find) => find.kind === value).length }))
    .filter(({ all }) => all > 0),
);
const kindItems = computed(() => [
  { value: '' as const, title: `All ${count(props.finds.length)}` },
  ...kinds.value.map(({ value, all }) => ({ value, title: `${kindWords[value]}, ${count(all)}` })),
]);
const shown = computed(() =>
  props.finds.flatMap((find, i) =>
    kind.value === '' || find.kind === kind.value ? [{ find, i, state: props.states[i] ?? 'open' }] : [],
  ),
);
const acceptable = computed(() =>
  shown.value.filter(({ find, state }) => find.edits.length > 0 && state === 'open').map(({ find }) => find),
);
const slug = (find: Find) => catalogue.link(find.link)?.slug ?? '';
/** An address as it is told in a line: without its query, and not longer than is read. */
const shortly = (address: string): string => {
  const plain = address.replace(/^https?:\/\//, '').replace(/[?#].*$/s, '');
  return plain.length > 54 ? `${plain.slice(0, 53)}…` : plain;
};
const title = (find: Find) => {
  const words = find.kind === 'keyword' ? `“${find.was}”` : kindWords[find.kind];
  return words;
};
/** What a find is about, below its name. */
const about = (find: Find): string => {
  const link = catalogue.link(find.link);
  const earned = link && find.edits.length > 0 ? epc(link) : undefined;
  const worth =
    earned === undefined || 'why' in earned ? '' : `${perClick(earned.minor, earned.currency)} a visitor`;
  switch (find.kind) {
    case 'keyword':
      return ['keyword', worth].filter(Boolean).join(', ');
    case 'shop':
      return `was ${shortly(find.was)}, earned nothing${worth === '' ? '' : `; ${worth}`}`;
    case 'raw':
      return `was ${shortly(find.was)}`;
    default:
      return find.was;
  }
};
/** The lines that a find changes, before and after. */
const changed = computed(() => {
  const find = props.finds[props.chosen];
  if (!find || find.edits.length === 0) return undefined;
  const from = Math.min(...find.edits.map(({ start }) => start), find.start);
  const to = Math.max(...find.edits.map(({ end }) => end), find.end);
  if (to - from > 4000) return undefined;
  let after = '';
  let at = from;
  for (const { start, end, text } of find.edits.toSorted((a, b) => a.start - b.start || a.end - b.end)) {
    after += props.text.slice(at, start) + text;
    at = end;
  }
  return { before: props.text.slice(from, to), after: after + props.text.slice(at, to) };
});
const rows = ref<HTMLElement[]>([]);
watch(
  () => props.chosen,
  async (at) => {
    await nextTick();
    rows.value.find((row) => Number(row.dataset['at']) === at)?.scrollIntoView({ block: 'nearest' });
  },
);
</script>

<template>
  <section class="finds" aria-label="Finds">
    <header>
      <h2>Finds</h2>
      <v-select
        v-model="kind"
        class="small-field"
        single-line
        :items="kindItems"
        aria-label="Which finds are shown"
      />
      <v-btn
        v-if="acceptable.length > 1"
        size="small"
        variant="outlined"
        @click="emit('change', acceptable, 'accepted')"
        >Accept {{ count(acceptable.length) }}</v-btn
      >
    </header>
    <p v-if="finds.length === 0" class="none">
      Nothing to do: every link has its marks, leads somewhere, and no keyword of yours is read here.
    </p>
    <ul v-else class="list">
      <li
        v-for="{ find, i, state } in shown"
        ref="rows"
        :key="i"
        :data-at="i"
        :class="{ chosen: i === chosen, refused: state === 'refused' }"
      >
        <span class="leaf" :class="[findLook(find), state]" aria-hidden="true" />
        <div class="what" @click="emit('choose', i)">
          <text-link :aria-current="i === chosen ? 'true' : undefined" @click.stop="emit('choose', i)"
            >{{ title(find)
            }}<template v-if="slug(find) !== ''">
              → <span class="mono">{{ slug(find) }}</span></template
            ></text-link
          >
          <span class="quiet">{{ about(find) }}</span>
        </div>
        <v-btn
          v-if="find.edits.length > 0"
          size="small"
          :variant="state === 'accepted' ? 'flat' : 'outlined'"
          :color="state === 'accepted' ? 'primary' : undefined"
          :aria-pressed="state === 'accepted'"
          @click="emit('change', [find], state === 'accepted' ? 'open' : 'accepted')"
          >{{ acceptWords(find) }}</v-btn
        >
        <v-btn v-else-if="find.make" size="small" variant="outlined" @click="emit('make', find)"
          >Make link</v-btn
        >
        <span v-else class="quiet hand">by hand</span>
        <v-menu location="bottom end">
          <template #activator="{ props: menu }">
            <v-btn
              v-bind="menu"
              size="small"
              variant="text"
              icon="mdi:more"
              :aria-label="`More for ${title(find)}`"
              >⋯</v-btn
            >
          </template>
          <v-list density="compact">
            <v-list-item
              :title="state === 'refused' ? 'Not refused after all' : 'Refuse here'"
              @click="emit('change', [find], state === 'refused' ? 'open' : 'refused')"
            />
            <v-list-item title="Refuse always" @click="emit('never', find)" />
          </v-list>
        </v-menu>
      </li>
    </ul>
    <pre v-if="changed" class="changed" aria-label="What it changes"><span
      class="minus">− {{ changed.before }}</span>
<span class="plus">+ {{ changed.after }}</span></pre>
  </section>
</template>

<style scoped>
.finds {
  display: flex;
  flex-direction: column;
  min-height: 0;
  height: 100%;
  background: var(--surface);
}
header {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  padding: 12px 16px;
}
h2 {
  flex: 1;
}
.small-field {
  flex: none;
  width: 170px;
}
.none {
  padding: 0 16px;
}
.list {
  flex: 1;
  overflow: auto;
  margin: 0;
  padding: 0;
  list-style: none;
  border-top: 1px solid var(--line);
}
li {
  display: flex;
  gap: 4px;
  align-items: center;
  padding: 4px 6px 4px 0;
  border-bottom: 1px solid var(--line);
}
li.chosen {
  background: var(--fern-soft);
}
li.refused .what {
  opacity: 0.6;
  text-decoration: line-through;
}
.what {
  flex: 1;
  display: grid;
  min-width: 0;
  padding: 6px 4px;
  overflow-wrap: anywhere;
  cursor: pointer;
}
.what :deep(.text-link) {
  color: inherit;
  white-space: normal;
}
.what .quiet {
  max-height: 4.4em;
  overflow: hidden;
  font-size: 12.5px;
}
.hand {
  flex: none;
  font-size: 12.5px;
}
.leaf {
  flex: none;
  align-self: flex-start;
  width: 12px;
  height: 12px;
  margin: 12px 6px 0 16px;
  border: 2px solid var(--fern);
  border-radius: 7px 1px;
}
.leaf.fault {
  border-color: var(--copper);
}
.leaf.chance,
.leaf.fault,
.leaf.accepted {
  background: var(--fern);
}
.leaf.fault {
  background: var(--copper);
}
.leaf.accepted {
  background: var(--fern);
  border-color: var(--fern);
}
.changed {
  flex: none;
  max-height: 34%;
  overflow: auto;
  margin: 0;
  padding: 12px 16px;
  font: 12px/1.6 var(--mono);
  color: #e9eee9;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  background: #1f2a25;
}
.minus {
  color: #f0b68c;
}
.plus {
  color: #a9d8b8;
}
</style>
