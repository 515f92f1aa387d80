<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Domain } from '#core/catalogue';
import { checkRecord, redirectStatuses, relValues } from '#core/catalogue';
import { describeHop, redirectMeaning } from '#core/hop';
import { relOf } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import Conflict from '../links/Conflict.vue';

const props = defineProps<{ domain: Domain }>();
const catalogue = useCatalogue();
const draft = ref<Domain | undefined>();
const problems = ref<Record<string, string>>({});
const count = computed(() => catalogue.links.filter((link) => link.domain === props.domain.id).length);
const waiting = computed(() => catalogue.waiting.get(props.domain.id));
const robotsOptions = [
  { value: 'let-in', title: 'Let crawlers in, so that they read "noindex" on each hop' },
  { value: 'keep-away', title: 'Keep crawlers away from every hop' },
];

const edit = () => {
  const copy: Domain = JSON.parse(JSON.stringify(props.domain));
  draft.value = copy;
  problems.value = {};
};
const save = async () => {
  const checked = checkRecord('domain', draft.value);
  problems.value = checked.ok ? {} : Object.fromEntries(checked.problems.map((p) => [p.path, p.message]));
  if (!checked.ok) return;
  await catalogue.saveRecord('domain', checked.value);
  draft.value = undefined;
};
</script>

<template>
  <article>
    <header>
      <code class="host">{{ domain.host }}</code>
      <span class="quiet">{{ count }} {{ count === 1 ? 'link' : 'links' }}</span>
      <button v-if="!draft" class="text-link" type="button" :aria-label="`Edit ${domain.host}`" @click="edit">
        edit
      </button>
    </header>
    <conflict v-if="waiting?.theirs" :waiting="waiting" />
    <p v-else-if="waiting?.refusal" class="bad" role="alert">{{ waiting.refusal.message }}</p>
    <form v-if="draft" @submit.prevent="save">
      <v-text-field
        v-model="draft.prefix"
        label="Prefix before every slug, such as go/"
        class="mono"
        :error-messages="problems['prefix'] ?? ''"
      />
      <v-text-field v-model="draft.zone" label="Time zone" :error-messages="problems['zone'] ?? ''" />
      <v-select v-model="draft.robots" :items="robotsOptions" label="Crawlers" />
      <h3 class="caps">Defaults of its links</h3>
      <v-select v-model="draft.hop.status" :items="[...redirectStatuses]" label="Redirect type" />
      <p class="quiet">{{ redirectMeaning[draft.hop.status] }}</p>
      <v-checkbox
        v-model="draft.hop.hideReferrer"
        label="Hide from the network where the visitor came from"
      />
      <v-checkbox v-for="rel in relValues" :key="rel" v-model="draft.marks.rel" :value="rel" :label="rel" />
      <v-checkbox v-model="draft.marks.newTab" label="Opens a new tab" />
      <p class="quiet">
        {{ count }} {{ count === 1 ? 'link follows' : 'links follow' }} these wherever it was not told
        otherwise.
      </p>
      <div class="buttons">
        <v-btn type="submit" color="primary">Save</v-btn>
        <v-btn class="quiet-button" @click="draft = undefined">Cancel</v-btn>
      </div>
    </form>
    <template v-else>
      <p>
        New links: {{ describeHop(domain.hop) }} <code>rel="{{ relOf(domain.marks) }}"</code>,
        {{ domain.marks.newTab ? 'new tab' : 'same tab' }}.
      </p>
      <p class="quiet">
        Days of {{ domain.zone }}. Addresses begin with <code>/{{ domain.prefix }}</code
        >.
      </p>
    </template>
  </article>
</template>

<style scoped>
article {
  padding: 12px 16px;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
}
.host {
  font-weight: 600;
}
header .text-link {
  margin-left: auto;
}
form {
  display: grid;
  gap: 8px;
  margin-top: 10px;
}
p,
h3 {
  margin: 4px 0;
}
.buttons {
  display: flex;
  gap: 8px;
}
.bad {
  color: var(--copper);
}
</style>
