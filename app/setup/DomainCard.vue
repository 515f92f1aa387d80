<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Domain } from '#core/catalogue';
import { checkRecord, isLocalHost, pathsOf, withPrefix } from '#core/catalogue';
import { changedByDomain, describeHop, domainChangeProblems } from '#core/hop';
import { relOf } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import ClosedFields from '../links/ClosedFields.vue';
import HopFields from '../links/HopFields.vue';
import MarksFields from '../links/MarksFields.vue';
import type { Row } from '../sync/index.ts';
import { clock } from '../theme/formats.ts';
import Versions from '../waiting/Versions.vue';
import { useDomainCheck } from './domainCheck.ts';

const props = defineProps<{ domain: Domain }>();
const emit = defineEmits<{ editing: [open: boolean] }>();
const catalogue = useCatalogue();
const draft = ref<Domain | undefined>();
watch(draft, () => emit('editing', draft.value !== undefined), { flush: 'sync' });
const isRemoved = computed(() => catalogue.domain(props.domain.id) === undefined);
const problems = ref<Record<string, string>>({});
const count = computed(() => catalogue.links.filter((link) => link.domain === props.domain.id).length);
const waiting = computed(() => catalogue.waiting.get(props.domain.id));
const robotsOptions = [
  { value: 'let-in', title: 'Let crawlers in, so that they read "noindex" on each hop' },
  { value: 'keep-away', title: 'Keep crawlers away from every hop' },
];

const { checked, checking, checkFailed, lookedAt, look } = useDomainCheck(() => props.domain.host);
// A domain that was just added is followed as soon as the server has it, and any other one that is not on this machine.
watch(
  () => catalogue.where(props.domain.id),
  (where, before) => {
    if (where === 'live' && (before === 'here' || !isLocalHost(props.domain.host))) void look();
  },
  { immediate: true },
);
/** The domain as it was when the form was opened. */
let began: Row | undefined;
const edit = () => {
  began = catalogue.rowNow(props.domain.id);
  const copy: Domain = JSON.parse(JSON.stringify(props.domain));
  draft.value = copy;
  problems.value = {};
};
const otherProblem = computed(
  () => Object.entries(problems.value).find(([path]) => path !== 'prefix' && path !== 'zone')?.[1],
);
/** The record the draft would become: without fields left empty, and with the older prefix kept. */
const wanted = computed((): unknown => {
  if (!draft.value) return undefined;
  const { prefix, ...rest } = draft.value;
  return JSON.parse(JSON.stringify(withPrefix({ ...rest, prefix: props.domain.prefix }, prefix)));
});
/** The links of which something would be different, and what. */
const changes = computed(() => {
  const checked = checkRecord('domain', wanted.value);
  if (!draft.value || !checked.ok) return [];
  const next = checked.value;
  return catalogue.links
    .filter((link) => link.domain === props.domain.id)
    .flatMap((link) => {
      const parts = changedByDomain(link, props.domain, next);
      return parts.length > 0 ? [{ slug: link.slug, what: parts.join(' ') }] : [];
    });
});
const save = async () => {
  const next = checkRecord('domain', wanted.value);
  problems.value = next.ok ? {} : Object.fromEntries(next.problems.map((p) => [p.path, p.message]));
  if (!next.ok) return;
  const links = catalogue.links.filter((link) => link.domain === props.domain.id);
  const owners = new Map(links.flatMap((link) => pathsOf(link, props.domain).map((path) => [path, link])));
  const found = domainChangeProblems(next.value, props.domain, links, (path) => owners.get(path));
  problems.value = Object.fromEntries(found.map((p) => [p.path, p.message]));
  if (found.length > 0) return;
  await catalogue.saveRecord('domain', next.value, began);
  draft.value = undefined;
};
</script>

<template>
  <article>
    <header>
      <code class="host">{{ domain.host }}</code>
      <span class="quiet">{{ count }} {{ count === 1 ? 'link' : 'links' }}</span>
      <text-link v-if="!draft" :aria-label="`Edit ${domain.host}`" @click="edit"> edit </text-link>
      <text-link v-if="!draft" @click="look">check</text-link>
    </header>
    <versions v-if="waiting?.theirs" :waiting="waiting" />
    <p v-else-if="waiting?.refusal" class="bad" role="alert">{{ waiting.refusal.message }}</p>
    <p v-if="isRemoved" class="bad" role="alert">
      Somebody removed this domain while you edit it. Save, and you are asked which stays.
    </p>
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
      <hop-fields v-model="draft.hop" />
      <marks-fields v-model="draft.marks" />
      <closed-fields
        v-model="draft.before"
        label="Before a link opens"
        otherwise="Says that it has not begun yet"
      />
      <closed-fields v-model="draft.after" label="After a link closed" otherwise="Says that it has ended" />
      <h3 class="caps">The domain itself</h3>
      <v-checkbox v-model="draft.groups" label="A link’s group stands in its address" />
      <v-number-input
        :model-value="draft.cookieDays"
        :min="0"
        :max="400"
        label="Days its own cookie knows a visitor again (0 sets none)"
        @update:model-value="draft.cookieDays = $event ?? 0"
      />
      <p v-if="draft.cookieDays > 0" class="quiet">
        A cookie that is not needed to show the page asks for the visitor’s consent in many countries. Without
        it a visitor is known for one day.
      </p>
      <v-checkbox v-model="draft.mail" label="Its links may stand in mail" />
      <v-checkbox v-model="draft.social" label="Its links may stand on social pages" />
      <div v-if="changes.length > 0" class="changes" role="status">
        <p>Saving changes {{ changes.length }} {{ changes.length === 1 ? 'link' : 'links' }}:</p>
        <ul>
          <li v-for="change in changes.slice(0, 6)" :key="change.slug">
            <code>{{ change.slug }}</code> {{ change.what }}
          </li>
        </ul>
        <p v-if="changes.length > 6" class="quiet">and {{ changes.length - 6 }} more</p>
      </div>
      <p v-if="otherProblem" class="bad" role="alert">{{ otherProblem }}</p>
      <div class="buttons">
        <v-btn type="submit" color="primary">Save</v-btn>
        <v-btn class="quiet-button" @click="draft = undefined">Cancel</v-btn>
      </div>
    </form>
    <template v-else>
      <p v-if="checked" :class="{ bad: !checked.good }" role="status">
        {{ checked.says }}
        <span v-if="!checked.good" class="quiet"
          >Looked at {{ clock(lookedAt) }}; it is looked at again until it answers.</span
        >
      </p>
      <p v-else-if="checking" class="quiet" role="status">Asking whether it answers…</p>
      <p v-else-if="checkFailed" class="quiet">The server did not answer, so the domain was not checked.</p>
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
header .quiet {
  margin-right: auto;
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
.changes {
  padding: 8px 12px;
  font-size: 13px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.changes ul {
  margin: 0;
  padding-left: 18px;
}
.bad {
  color: var(--copper);
}
</style>
