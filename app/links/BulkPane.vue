<script setup lang="ts">
import { computed, ref } from 'vue';
import type { BulkChange, Link } from '#core/catalogue';
import { bulkPreview, bulkProblem, checkRecord, hopOf, redirectStatuses } from '#core/catalogue';
import { prepareLink } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';

/** One change of many links at once, with what it would do to each. */
const props = defineProps<{ links: readonly Link[] }>();
const emit = defineEmits<{ done: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const kind = ref<BulkChange['kind']>('replace');
const first = ref('');
const second = ref('');
const status = ref<(typeof redirectStatuses)[number]>(307);
const working = ref(false);
const shownMost = 100;

const kinds: { value: BulkChange['kind']; title: string }[] = [
  { value: 'replace', title: 'Find and replace in destinations' },
  { value: 'group', title: 'Put into a group' },
  { value: 'add tag', title: 'Add a tag' },
  { value: 'take tag', title: 'Take a tag off' },
  { value: 'redirect type', title: 'Set the redirect type' },
  { value: 'follow defaults', title: 'Let them follow their domain' },
  { value: 'star', title: 'Star' },
  { value: 'archive', title: 'Archive' },
  { value: 'bring back', title: 'Bring back' },
];
const change = computed((): BulkChange => {
  switch (kind.value) {
    case 'replace':
      return { kind: 'replace', find: first.value, by: second.value };
    case 'group':
      return { kind: 'group', group: first.value };
    case 'add tag':
      return { kind: 'add tag', tag: first.value };
    case 'take tag':
      return { kind: 'take tag', tag: first.value };
    case 'redirect type':
      return { kind: 'redirect type', status: status.value };
    case 'star':
      return { kind: 'star', on: true };
    case 'archive':
      return { kind: 'archive', at: Date.now() };
    default:
      return { kind: kind.value };
  }
});
const problem = computed(() => bulkProblem(change.value));
const previews = computed(() =>
  problem.value === undefined
    ? bulkPreview(props.links, change.value).map((preview) => {
        const checked = checkRecord('link', preview.next);
        const domain = catalogue.domain(preview.link.domain);
        const ready =
          checked.ok && domain ? prepareLink(checked.value, hopOf(checked.value, domain), domain) : checked;
        return { ...preview, wrong: ready.ok ? undefined : ready.problems[0]?.message };
      })
    : [],
);
const good = computed(() => previews.value.filter((preview) => preview.wrong === undefined));
const bad = computed(() => previews.value.filter((preview) => preview.wrong !== undefined));
const asksText = computed(() => ['replace', 'group', 'add tag', 'take tag'].includes(kind.value));

const apply = async () => {
  working.value = true;
  const changes = good.value.map(({ next }) => ({ kind: 'link' as const, value: next }));
  await catalogue.save(...changes);
  working.value = false;
  emit('done');
  notice.say(
    `${changes.length} ${changes.length === 1 ? 'link is' : 'links are'} changed.`,
    () => void catalogue.undo(),
  );
};
</script>

<template>
  <div class="bulk">
    <h2>Change many</h2>
    <p class="quiet">{{ links.length }} picked. Filter the list or untick rows to pick others.</p>
    <form @submit.prevent="apply">
      <v-select v-model="kind" :items="kinds" label="What to do" />
      <v-text-field
        v-if="asksText"
        v-model="first"
        :label="kind === 'replace' ? 'Find' : kind === 'group' ? 'Group (empty for none)' : 'Tag'"
        class="mono"
        spellcheck="false"
      />
      <v-text-field
        v-if="kind === 'replace'"
        v-model="second"
        label="Replace by"
        class="mono"
        spellcheck="false"
      />
      <v-select
        v-if="kind === 'redirect type'"
        v-model="status"
        :items="[...redirectStatuses]"
        label="Redirect type"
      />
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <div class="buttons">
        <v-btn type="submit" color="primary" :disabled="good.length === 0" :loading="working">
          Change {{ good.length }} {{ good.length === 1 ? 'link' : 'links' }}
        </v-btn>
        <v-btn class="quiet-button" @click="emit('done')">Cancel</v-btn>
      </div>
    </form>
    <p v-if="bad.length > 0" class="bad">
      {{ bad.length }} could not stand like this and are left as they are.
    </p>
    <ul>
      <li
        v-for="preview in previews.slice(0, shownMost)"
        :key="preview.link.id"
        :class="{ bad: preview.wrong }"
      >
        <strong class="mono">{{ preview.link.slug }}</strong>
        <span class="what">{{ preview.wrong ?? preview.what }}</span>
      </li>
      <li v-if="previews.length > shownMost" class="quiet">and {{ previews.length - shownMost }} more</li>
    </ul>
    <p v-if="previews.length === 0 && !problem" class="quiet">Nothing changes yet.</p>
  </div>
</template>

<style scoped>
.bulk {
  flex: 1;
  overflow: auto;
  padding: 14px 18px;
}
form {
  display: grid;
  gap: 10px;
  margin: 10px 0;
}
.buttons {
  display: flex;
  gap: 8px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  padding: 5px 0;
  border-top: 1px solid var(--line);
  font-size: 13px;
}
.what {
  overflow-wrap: anywhere;
}
p {
  margin: 4px 0;
}
.bad {
  color: var(--copper);
}
</style>
