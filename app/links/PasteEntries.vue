<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import { useDisplay } from 'vuetify';
import type { PasteEntry } from '#core/link-parts';
import { proposeTitle, unknownTag } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { isMakeable } from './makePasted.ts';

/** Every line of a paste with what it is: what becomes a link, what is here already, what cannot be read and why. */
const props = defineProps<{ entries: readonly PasteEntry[]; choice: (entry: PasteEntry) => number }>();
const emit = defineEmits<{ choose: [entry: PasteEntry, choice: number] }>();
const catalogue = useCatalogue();
const router = useRouter();

const rowHeight = 44;
/** On a phone a line's words stand below each other, so that they can be read whole. */
const { width } = useDisplay();
const isNarrow = computed(() => width.value < 700);
/** Ten rows, and half of the next one, so that it is seen that there are more. */
const mostHeight = 10.5 * rowHeight;

const what = (entry: PasteEntry): string => {
  switch (entry.kind) {
    case 'tracking':
    case 'address': {
      const { network, known, programName } = entry.linkParts;
      const name = network?.name ?? known?.name ?? 'no network of yours';
      return [entry.snippet ? 'a snippet' : '', name, programName].filter(Boolean).join(', ');
    }
    case 'page': {
      const choice = entry.choices[props.choice(entry)];
      return choice ? `page of ${choice.program.name}` : 'a page';
    }
    case 'short':
      return 'a short link of yours';
    case 'exists':
      return `here already as ${entry.link.slug}`;
    case 'twice':
      return `the same as line ${entry.line}`;
    case 'not read':
      return 'not read';
  }
};
const titleOf = (entry: PasteEntry): string => {
  if (entry.title !== '') return entry.title;
  if (entry.kind === 'tracking' || entry.kind === 'address') return proposeTitle(entry.linkParts);
  return entry.kind === 'short' || entry.kind === 'exists' ? entry.link.title : '';
};
const problem = (entry: PasteEntry): string => {
  if (entry.kind === 'not read') return entry.reason;
  if (entry.kind !== 'tracking') return '';
  const { networks, programs, accounts } = catalogue;
  const found = unknownTag(entry.address, networks, programs, accounts);
  return found ? `${found.tag} is not in the register: it will stay here.` : '';
};
const linesOf = ({ unit }: PasteEntry) =>
  unit.from === unit.to ? String(unit.from) : `${unit.from}–${unit.to}`;
const items = computed(() => props.entries.map((entry, key) => ({ key, entry })));
const open = (id: string) => router.push({ name: 'links', params: { link: id } });
</script>

<template>
  <v-virtual-scroll
    :items="items"
    v-bind="isNarrow ? {} : { itemHeight: rowHeight }"
    :height="Math.min(mostHeight, items.length * (isNarrow ? 2 : 1) * rowHeight)"
    class="entries"
    role="list"
    aria-label="What the lines are"
    tabindex="0"
  >
    <template #default="{ item: { entry } }">
      <div
        class="entry"
        role="listitem"
        :class="{ made: isMakeable(entry), bad: entry.kind === 'not read', narrow: isNarrow }"
      >
        <span class="line number quiet">{{ linesOf(entry) }}</span>
        <span class="what">
          <v-select
            v-if="entry.kind === 'page' && entry.choices.length > 1"
            :model-value="choice(entry)"
            :items="
              entry.choices.map((c, value) => ({ value, title: `${c.program.name} at ${c.network.name}` }))
            "
            :aria-label="`Program for line ${linesOf(entry)}`"
            class="small-select"
            @update:model-value="emit('choose', entry, $event)"
          />
          <a
            v-else-if="entry.kind === 'short' || entry.kind === 'exists'"
            :href="`/links/${entry.link.id}`"
            @click.prevent="open(entry.link.id)"
            >{{ what(entry) }}</a
          >
          <template v-else>{{ what(entry) }}</template>
        </span>
        <span class="text">
          <strong v-if="titleOf(entry) !== ''">{{ titleOf(entry) }}</strong>
          <code
            >{{ entry.address || entry.unit.text }}<hint>{{ entry.address || entry.unit.text }}</hint></code
          >
          <span v-if="problem(entry) !== ''" class="problem">{{ problem(entry) }}</span>
          <span v-else-if="entry.note !== '' && entry.kind !== 'short'" class="quiet">{{ entry.note }}</span>
        </span>
      </div>
    </template>
  </v-virtual-scroll>
</template>

<style scoped>
.entries {
  margin-top: 10px;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.entry {
  display: grid;
  grid-template-columns: 44px minmax(120px, 200px) minmax(0, 1fr);
  gap: 10px;
  align-items: center;
  height: 44px;
  padding: 0 12px 0 0;
  border-bottom: 1px solid var(--line);
}
.line {
  text-align: right;
  font-size: 12px;
}
.what,
.text > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.made .what {
  color: var(--fern);
}
.bad .what,
.problem {
  color: var(--copper);
}
.text {
  display: flex;
  gap: 10px;
  align-items: baseline;
  min-width: 0;
  font-size: 13px;
}
.text strong {
  flex: 0 1 auto;
  max-width: 34%;
  font-weight: 500;
}
.text code {
  flex: 1 1 90px;
  font-size: 12px;
}
.problem,
.text .quiet {
  flex: 0 1 auto;
  max-width: 60%;
}
.what a {
  color: var(--fern);
}
.narrow {
  grid-template-columns: 34px minmax(0, 1fr);
  gap: 2px 10px;
  height: auto;
  padding: 8px 12px 8px 0;
}
.narrow .text {
  grid-column: 2;
  flex-direction: column;
  gap: 2px;
}
.narrow .what,
.narrow .text > * {
  max-width: none;
  white-space: normal;
  overflow-wrap: anywhere;
}
.narrow .text code {
  flex: none;
}
</style>
