<script setup lang="ts">
import { computed, shallowRef, watch } from 'vue';
import type { Link } from '#core/catalogue';
import { undoChange } from '#core/catalogue';
import { describeChange } from '#core/hop';
import type { RecordVersion } from '#core/visits';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker, useJournal } from '../data/journal.ts';
import { useNotice } from '../shell/notice.ts';
import LeafMark from '../theme/LeafMark.vue';
import { localMoment, moment } from '../theme/formats.ts';
import ChangeWords from './ChangeWords.vue';

/** Every change of a link: who, when, what; each can be undone, those made as one step as one. */
const props = defineProps<{ link: Link }>();
const emit = defineEmits<{ back: [] }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const versions = shallowRef<readonly RecordVersion[]>([]);
const together = shallowRef<ReadonlyMap<string, number>>(new Map());

watch(
  [() => props.link.id, () => journal.news],
  async ([id]) => {
    const found = await journalWorker.history(id);
    const steps = [...new Set(found.map((version) => version.step).filter((step) => step !== ''))];
    const sizes = await Promise.all(
      steps.map(async (step) => [step, (await journalWorker.step(step)).length] as const),
    );
    if (id !== props.link.id) return;
    versions.value = found;
    together.value = new Map(sizes);
  },
  { immediate: true },
);
const steps = computed(() =>
  versions.value.map((version, i) => {
    const before = versions.value[i + 1]?.value ?? null;
    return {
      version,
      before,
      what: describeChange(before, version.value, {
        zone: catalogue.domain(props.link.domain)?.zone,
        time: localMoment,
      }),
      many: together.value.get(version.step) ?? 1,
    };
  }),
);
const saveAs = async (list: readonly { record: string; before: object | null; after: object | null }[]) => {
  const stays = new Set<string>();
  const changes = list.flatMap(({ record, before, after }) => {
    const current = catalogue.link(record) ?? null;
    // Only links are undone here: a network made in the same step has more that rests on it by now.
    if (!record.startsWith('lnk_')) return [];
    const undone = undoChange(before, after, current);
    for (const field of undone.stays) stays.add(field);
    const value = undone.value as Link | null; // versions of links are links
    return [{ kind: 'link' as const, value, id: record }];
  });
  const step = await catalogue.save(...changes);
  return { count: changes.length, stays: [...stays], step };
};
const undoStep = async ({ version, before, many }: (typeof steps.value)[number]) => {
  const list =
    many > 1
      ? await journalWorker.step(version.step)
      : [{ record: props.link.id, before, after: version.value }];
  const { count, stays, step } = await saveAs(list);
  const but =
    stays.length > 0 ? ` What was changed again since stays: ${stays.join(', ') || 'the link'}.` : '';
  notice.did(`${count > 1 ? `The step is undone in ${count} links.` : 'The step is undone.'}${but}`, step);
};
</script>

<template>
  <div class="history" @keydown.esc="emit('back')">
    <header>
      <text-link @click="emit('back')">← {{ link.title }}</text-link>
      <h2>History</h2>
    </header>
    <p v-if="steps.length === 0" class="quiet">No change is in the journal of this browser yet.</p>
    <ol>
      <li v-for="step in steps" :key="step.version.seq">
        <leaf-mark tone="fern" outlined />
        <div>
          <p class="who">
            <strong>{{ step.version.by || 'Somebody' }}</strong>
            <span class="quiet">{{ moment(step.version.at) }}, version {{ step.version.version }}</span>
          </p>
          <change-words :changes="step.what" />
          <text-link v-if="step.before !== null || step.many > 1" @click="undoStep(step)">
            {{ step.many > 1 ? `Undo in all ${step.many}` : 'Undo' }}
          </text-link>
        </div>
      </li>
    </ol>
  </div>
</template>

<style scoped>
.history {
  flex: 1;
  overflow: auto;
  padding: 14px 18px;
}
ol {
  list-style: none;
  margin: 12px 0 0;
  padding: 0;
}
li {
  display: flex;
  gap: 10px;
  padding: 8px 0;
  border-top: 1px solid var(--line);
}
p {
  margin: 0;
}
.who {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
}
</style>
