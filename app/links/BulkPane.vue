<script setup lang="ts">
import { computed, defineAsyncComponent, ref } from 'vue';
import type { BulkChange, Conditions, FollowedParts, Hours, Link, Marks } from '#core/catalogue';
import { bulkPreview, bulkProblem, checkRecord, hopOf, redirectStatuses } from '#core/catalogue';
import { describeChange, prepareLink } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { count, localMoment } from '../theme/formats.ts';
import BulkMarksFields from './BulkMarksFields.vue';
import ChangeWords from './ChangeWords.vue';
import CopySeveral from './copying/CopySeveral.vue';
import ConditionFields from './ConditionFields.vue';
import HoursFields from './HoursFields.vue';
import TokenField from './TokenField.vue';

const StandsOn = defineAsyncComponent(() => import('./StandsOn.vue'));

/** One change of many links at once, with what it would do to each. */
const props = defineProps<{
  links: readonly Link[];
  /** How many the list shows. */
  listed: number;
}>();
const emit = defineEmits<{ all: []; none: []; done: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const kind = ref<BulkChange['kind']>('replace');
const first = ref('');
const second = ref('');
const status = ref<(typeof redirectStatuses)[number]>(307);
const marks = ref<{ [K in keyof Marks]?: Marks[K] | null }>({});
const hours = ref<Hours>({});
const when = ref<Conditions>({ countries: ['DE'] });
const parts = ref<FollowedParts>('hop and marks');
const working = ref(false);
const shownMost = 100;

const kinds: { value: BulkChange['kind']; title: string }[] = [
  { value: 'replace', title: 'Find and replace in destinations' },
  { value: 'group', title: 'Put into a group' },
  { value: 'add tag', title: 'Add a tag' },
  { value: 'take tag', title: 'Take a tag off' },
  { value: 'redirect type', title: 'Set the redirect type' },
  { value: 'marks', title: 'Set marks' },
  { value: 'hours', title: 'Set opening hours' },
  { value: 'branch', title: 'Send some visitors elsewhere' },
  { value: 'no branches', title: 'Send everybody the same way' },
  { value: 'follow defaults', title: 'Let them follow their domain' },
  { value: 'star', title: 'Star' },
  { value: 'archive', title: 'Archive' },
  { value: 'bring back', title: 'Bring back' },
];
const followed: { value: FollowedParts; title: string }[] = [
  { value: 'hop and marks', title: 'In how they hop and in their marks' },
  { value: 'hop', title: 'In how they hop' },
  { value: 'marks', title: 'In their marks' },
];
const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(value));
const change = computed((): BulkChange => {
  switch (kind.value) {
    case 'replace':
      return { kind: 'replace', find: first.value, by: second.value };
    case 'group':
      return { kind: 'group', group: first.value };
    case 'add tag':
    case 'take tag':
      return { kind: kind.value, tag: first.value };
    case 'redirect type':
      return { kind: 'redirect type', status: status.value };
    case 'marks':
      return { kind: 'marks', marks: plain(marks.value) };
    case 'hours':
      return { kind: 'hours', hours: plain(hours.value) };
    case 'branch':
      return { kind: 'branch', when: plain(when.value), destination: second.value.trim() };
    case 'follow defaults':
      return { kind: 'follow defaults', parts: parts.value };
    case 'star':
      return { kind: 'star', on: true };
    case 'archive':
      return { kind: 'archive', at: Date.now() };
    default:
      return { kind: kind.value };
  }
});
const problem = computed(() => bulkProblem(change.value));
/** The zone and host that hours are said by, where all of the links are on one domain. */
const domain = computed(() => catalogue.domain(props.links[0]?.domain));
const previews = computed(() =>
  problem.value === undefined
    ? bulkPreview(props.links, change.value).map(({ link, next }) => {
        const checked = checkRecord('link', next);
        const own = catalogue.domain(link.domain);
        const ready =
          checked.ok && own ? prepareLink(checked.value, hopOf(checked.value, own), own) : checked;
        return { link, next, wrong: ready.ok ? undefined : ready.problems[0]?.message };
      })
    : [],
);
const wordsOf = (link: Link, next: Link) => {
  const own = catalogue.domain(link.domain);
  return describeChange(link, next, { zone: own?.zone, defaults: own, time: localMoment });
};
const good = computed(() => previews.value.filter((preview) => preview.wrong === undefined));
const bad = computed(() => previews.value.filter((preview) => preview.wrong !== undefined));
const shown = computed(() =>
  previews.value.slice(0, shownMost).map((preview) => ({
    ...preview,
    what: preview.wrong === undefined ? wordsOf(preview.link, preview.next) : [],
  })),
);
/** What is to be known of places before the change; undefined for a change that they do not notice. */
const before = computed(
  () => (({ archive: 'archive', replace: 'change' }) as const)[kind.value as 'archive' | 'replace'],
);
const changing = computed(() => good.value.map(({ link }) => link.id));
const textLabel = computed(
  () =>
    ({ replace: 'Find', group: 'Group (empty for none)', 'add tag': 'Tag', 'take tag': 'Tag' })[
      kind.value as string
    ],
);

const apply = async () => {
  working.value = true;
  try {
    const changes = good.value.map(({ next }) => ({ kind: 'link' as const, value: next }));
    const step = await catalogue.save(...changes);
    emit('done');
    notice.did(`${changes.length} ${changes.length === 1 ? 'link is' : 'links are'} changed.`, step);
  } finally {
    working.value = false;
  }
};
</script>

<template>
  <div class="bulk">
    <h2>Change many</h2>
    <p class="quiet">
      {{
        links.length === 0 ? 'Nothing picked yet: press rows of the list.' : `${count(links.length)} picked.`
      }}
      <text-link v-if="links.length < listed" @click="emit('all')">
        Pick all {{ count(listed) }} shown
      </text-link>
      <text-link v-if="links.length > 0" @click="emit('none')">Pick none</text-link>
    </p>
    <copy-several v-if="links.length > 0" :links="links" />
    <form @submit.prevent="apply">
      <v-select v-model="kind" :items="kinds" label="What to do" />
      <v-text-field v-if="textLabel" v-model="first" :label="textLabel" class="mono" spellcheck="false" />
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
      <bulk-marks-fields v-if="kind === 'marks'" v-model="marks" />
      <template v-if="kind === 'hours' && domain">
        <p class="quiet">Instead of the hours they have. Without a time they are always open.</p>
        <hours-fields v-model="hours" :zone="domain.zone" :host="domain.host" />
      </template>
      <template v-if="kind === 'branch' && domain">
        <condition-fields v-model="when" :zone="domain.zone" />
        <token-field v-model="second" label="Go to" :rows="2" />
        <p class="quiet">Tried before the branches they have. A condition that nobody set holds for all.</p>
      </template>
      <v-select v-if="kind === 'follow defaults'" v-model="parts" :items="followed" label="In what" />
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <stands-on v-if="before && changing.length > 0" :links="changing" :before="before" />
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
      <li v-for="preview in shown" :key="preview.link.id" :class="{ bad: preview.wrong }">
        <strong class="mono">{{ preview.link.slug }}</strong>
        <span v-if="preview.wrong">{{ preview.wrong }}</span>
        <change-words v-else :changes="preview.what" />
      </li>
      <li v-if="previews.length > shownMost" class="quiet">and {{ previews.length - shownMost }} more</li>
    </ul>
    <p v-if="previews.length === 0 && links.length > 0 && !problem" class="quiet">Nothing changes yet.</p>
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
  overflow-wrap: anywhere;
}
p {
  margin: 4px 0;
}
.bad {
  color: var(--copper);
}
</style>
