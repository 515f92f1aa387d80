<script setup lang="ts">
import { computed } from 'vue';
import type { Restriction, HopChoices } from '#core/catalogue';
import { consequence, hopWays } from '#core/hop';

/** The choices of how a link, or every link of a domain, sends its visitors on. */
const choices = defineModel<HopChoices>({ required: true });
const props = defineProps<{ restrictions?: readonly Restriction[]; clicks?: number; repeats?: number }>();

const why = (what: Restriction['what']) => props.restrictions?.find((h) => h.what === what)?.because;
const notPage = computed(() => why('page'));
const notFrame = computed(() => notPage.value ?? why('frame'));
const nameOf = ({ page, status }: Partial<HopChoices>) => (page === 'none' ? String(status) : String(page));
const options = computed(() =>
  hopWays.map(({ title, choices: { page, status } }) => ({
    value: nameOf({ page, ...(status && { status }) }),
    title,
    props: {
      disabled: page !== 'none' && (page === 'frame' ? notFrame.value : notPage.value) !== undefined,
    },
  })),
);
const way = computed({
  get: () => nameOf(choices.value),
  set: (value: string) => {
    const chosen = hopWays.find((one) => nameOf(one.choices) === value);
    if (chosen) choices.value = { ...choices.value, ...chosen.choices };
  },
});
const set = (more: Partial<HopChoices>) => (choices.value = { ...choices.value, ...more });
const setWait = (more: Partial<HopChoices['wait']>) => set({ wait: { ...choices.value.wait, ...more } });
const permanent = computed(
  () => choices.value.page === 'none' && (choices.value.status === 301 || choices.value.status === 308),
);
const sends = computed(() => choices.value.page === 'refresh' || choices.value.page === 'script');
const passOptions = [
  { value: 'none', title: 'Pass no parameters on' },
  { value: 'list', title: 'Pass those on a list' },
  { value: 'all', title: 'Pass all parameters on' },
];
const passKind = computed({
  get: () => (Array.isArray(choices.value.pass) ? 'list' : choices.value.pass),
  set: (kind: 'none' | 'all' | 'list') => set({ pass: kind === 'list' ? [] : kind }),
});
const passList = computed({
  get: () => (Array.isArray(choices.value.pass) ? choices.value.pass.join(', ') : ''),
  set: (text: string) => set({ pass: text.split(/[\s,]+/).filter(Boolean) }),
});
const scriptList = computed({
  get: () => choices.value.scripts.join('\n'),
  set: (text: string) => set({ scripts: text.split(/\s+/).filter(Boolean) }),
});
const robotsOptions = [
  { value: 'noindex, nofollow', title: 'Crawlers: do not index, do not follow' },
  { value: 'noindex', title: 'Crawlers: do not index' },
  { value: 'index', title: 'Crawlers: nothing is said to them' },
];
</script>

<template>
  <v-select v-model="way" :items="options" label="How it sends on" />
  <p v-if="notPage ?? notFrame" class="quiet note forbidden">{{ notPage ?? notFrame }}</p>
  <p class="quiet note">{{ consequence(choices, clicks ?? 0, repeats ?? 0) }}</p>
  <v-checkbox
    v-if="permanent"
    :model-value="choices.cache"
    label="Let browsers keep it for a day: faster, but later clicks are not seen"
    @update:model-value="set({ cache: $event === true })"
  />
  <template v-if="choices.page === 'frame'">
    <v-text-field
      :model-value="choices.frameTitle"
      label="Title of the page around the frame"
      @update:model-value="set({ frameTitle: $event })"
    />
  </template>
  <template v-if="sends">
    <v-number-input
      :model-value="choices.wait.seconds"
      :min="0"
      :max="120"
      label="Seconds to wait (0 goes on at once)"
      @update:model-value="setWait({ seconds: $event ?? 0 })"
    />
    <template v-if="choices.wait.seconds > 0">
      <v-textarea
        :model-value="choices.wait.text"
        label="Words on the waiting page"
        rows="2"
        auto-grow
        @update:model-value="setWait({ text: $event })"
      />
      <v-text-field
        :model-value="choices.wait.picture ?? ''"
        label="Address of a picture above them"
        placeholder="https://"
        @update:model-value="(picture: string) => setWait({ picture: picture.trim() })"
      />
      <v-text-field
        :model-value="choices.wait.button"
        label="Words on its button"
        placeholder="Go on"
        @update:model-value="setWait({ button: $event })"
      />
      <v-checkbox
        :model-value="choices.wait.progress"
        label="Show how long it lasts"
        @update:model-value="setWait({ progress: $event === true })"
      />
    </template>
  </template>
  <v-textarea
    v-if="choices.page !== 'none'"
    v-model.lazy="scriptList"
    label="Measuring scripts of your own, one https address a line"
    class="mono"
    rows="1"
    auto-grow
    spellcheck="false"
  />
  <v-checkbox
    :model-value="choices.hideReferrer"
    label="Hide from the network where the visitor came from"
    @update:model-value="set({ hideReferrer: $event === true })"
  />
  <v-checkbox
    v-if="sends"
    :model-value="choices.twice"
    label="By way of two pages, for browsers that do not heed the header"
    @update:model-value="set({ twice: $event === true })"
  />
  <v-select v-model="passKind" :items="passOptions" label="The visitor’s own parameters" />
  <v-text-field
    v-if="passKind === 'list'"
    v-model.lazy="passList"
    label="Names, with commas between"
    class="mono"
  />
  <v-select
    :model-value="choices.robots"
    :items="robotsOptions"
    label="Index hint"
    @update:model-value="set({ robots: $event })"
  />
</template>

<style scoped>
.note {
  margin: 0;
  font-size: 13px;
}
.forbidden {
  color: var(--copper);
}
</style>
