<script setup lang="ts">
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { LinkParts, PasteEntry } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { usePaste } from '../shell/paste.ts';
import { hasMoreThanText, transferOf } from '../shell/transfer.ts';
import { count } from '../theme/formats.ts';
import { isMakeable, pastedRecords, restOf } from './makePasted.ts';
import PasteEntries from './PasteEntries.vue';
import PasteGroup from './PasteGroup.vue';
import { usePasteReading } from './pasteReading.ts';
import { readTransfer } from './readTransfer.ts';

const catalogue = useCatalogue();
const paste = usePaste();
const notice = useNotice();
const router = useRouter();
const text = ref(paste.text);
watch(
  () => paste.text,
  (pasted) => {
    if (pasted.trim() !== '') text.value = pasted;
  },
);
const { entries, reading } = usePasteReading(() => text.value);
/** Of a page that several programs take, which of its choices. */
const chosen = ref(new Map<string, number>());
const choice = (entry: PasteEntry) => chosen.value.get(entry.address) ?? 0;

const countOf = (kinds: readonly PasteEntry['kind'][]) =>
  entries.value.filter(({ kind }) => kinds.includes(kind)).length;
const makeable = computed(() => entries.value.filter(isMakeable).length);
const links = (n: number) => `${count(n)} ${n === 1 ? 'link' : 'links'}`;
const summary = computed(() =>
  [
    `${links(makeable.value)} to make`,
    [countOf(['short', 'exists']), 'here already'] as const,
    [countOf(['twice']), 'twice in this paste'] as const,
    [countOf(['not read']), 'not read'] as const,
  ]
    .flatMap((part) =>
      typeof part === 'string' ? [part] : part[0] > 0 ? [`${count(part[0])} ${part[1]}`] : [],
    )
    .join(', '),
);
/** More hosts than this at once are rather shops than networks: they are shown when asked for. */
const mostGroups = 6;
const allGroups = ref(false);
/** Links of one network, or of one host nobody registered where they have parameters; those with most links first. */
const groupsOf = (list: readonly PasteEntry[]) => {
  const byKey = new Map<string, { title: string; links: LinkParts[] }>();
  for (const entry of list) {
    if (!('linkParts' in entry)) continue;
    const { network, known, host } = entry.linkParts;
    const key = network?.id ?? known?.name ?? host;
    const group = byKey.get(key) ?? { title: network?.name ?? key, links: [] };
    byKey.set(key, group);
    group.links.push(entry.linkParts);
  }
  return [...byKey]
    .map(([key, group]) => ({ key, ...group }))
    .filter((group) => group.links.some(({ pairs }) => pairs.length > 0))
    .toSorted((a, b) => b.links.length - a.links.length);
};
const groups = shallowRef<ReturnType<typeof groupsOf>>([]);
/** How many of them are drawn. Each comes in a turn of the screen of its own, after the lines. */
const drawn = ref(0);
const drawNext = () => {
  if (drawn.value >= (allGroups.value ? groups.value.length : Math.min(mostGroups, groups.value.length)))
    return;
  drawn.value += 1;
  setTimeout(drawNext);
};
watch(entries, (list) =>
  setTimeout(() => {
    if (list !== entries.value) return;
    groups.value = groupsOf(list);
    drawn.value = Math.min(drawn.value, groups.value.length);
    drawNext();
  }),
);
watch(allGroups, drawNext);
const shownGroups = computed(() => groups.value.slice(0, drawn.value));

const field = useTemplateRef<{ $el: HTMLElement }>('field');
/** Puts what was pasted or dropped where the cursor stands. */
const insert = async (event: ClipboardEvent | DragEvent, data: DataTransfer | null) => {
  const transfer = transferOf(data);
  if (!hasMoreThanText(transfer)) return;
  event.preventDefault();
  const { text: found, problems } = await readTransfer(transfer);
  const area = field.value?.$el.querySelector('textarea');
  if (area && found !== '') {
    area.setRangeText(found, area.selectionStart, area.selectionEnd, 'end');
    text.value = area.value;
  }
  if (problems.length > 0) notice.say(problems.join(' '));
};
const make = async () => {
  const [domain] = catalogue.domains;
  if (!domain) {
    // What stands in the field waits for the domain, and is here again afterwards.
    paste.text = text.value;
    paste.untilDomain = async () => void (await router.push({ name: 'paste' }));
    await router.push({ name: 'links' });
    return;
  }
  const { count: made, changes } = pastedRecords(entries.value, choice, domain);
  const rest = restOf(entries.value);
  const step = await catalogue.save(...changes);
  paste.text = '';
  text.value = rest;
  const stays = rest === '' ? 0 : new Set(rest.split('\n')).size;
  notice.did(
    `${links(made)} ${made === 1 ? 'is' : 'are'} made.${stays > 0 ? ' What is no new link stays in the field.' : ''}`,
    step,
  );
  if (rest === '') await router.push({ name: 'links' });
};
</script>

<template>
  <div class="paste">
    <header>
      <h1>Paste</h1>
      <span v-if="entries.length > 0" class="quiet" role="status">{{ reading ? 'Reading…' : summary }}</span>
      <v-btn v-if="makeable > 0" color="primary" class="make" :disabled="reading" @click="make">
        Make {{ links(makeable) }}
      </v-btn>
    </header>
    <v-textarea
      ref="field"
      v-model="text"
      class="mono"
      :rows="5"
      aria-label="Links, pages of shops, snippets, cells of a spreadsheet"
      placeholder="Anything with addresses in it"
      spellcheck="false"
      wrap="off"
      no-resize
      @paste="insert($event, $event.clipboardData)"
      @drop="insert($event, $event.dataTransfer)"
    />
    <paste-entries
      v-if="entries.length > 0"
      :entries="entries"
      :choice="choice"
      @choose="(entry, to) => chosen.set(entry.address, to)"
    />
    <paste-group v-for="group in shownGroups" :key="group.key" :title="group.title" :links="group.links" />
    <v-btn v-if="groups.length > shownGroups.length" class="quiet-button all" @click="allGroups = true">
      Show the links of {{ count(groups.length - shownGroups.length) }} more hosts
    </v-btn>
  </div>
</template>

<style scoped>
.paste {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  align-items: baseline;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin-bottom: 10px;
}
.make {
  margin-left: auto;
}
.all {
  margin-top: 14px;
}
</style>
