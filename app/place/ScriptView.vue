<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { originOfHost } from '#core/catalogue';
import { isSourceName } from '#core/hop';
import type { ScriptChoices } from '#core/placing';
import { privacySentence, scriptPolicy, scriptTag, usualScript } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import type { PlaceScript } from '../data/server.ts';
import { getPlaceScript } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { count } from '../theme/formats.ts';
import PlaceTabs from './PlaceTabs.vue';

/** The script that links addresses and keywords while a page is read: what it is to do, and what goes into the page for it. */
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const chosen = ref('');
const domain = computed(
  () => catalogue.domains.find(({ host }) => host === chosen.value) ?? catalogue.domains[0],
);
const choices = ref<ScriptChoices>({ ...usualScript });
const isNamed = computed(() => choices.value.sourceFrom !== 'name' || isSourceName(choices.value.source));
const origin = computed(() => (domain.value ? originOfHost(domain.value.host, location.port) : ''));
const texts = computed(() => [
  {
    name: 'Into each page, before </head>',
    text: scriptTag(`${origin.value}/place.js`, choices.value),
    did: 'The script’s element is copied.',
  },
  {
    name: 'If the site has a content security policy',
    text: scriptPolicy(origin.value, choices.value),
    did: 'The policy is copied.',
  },
  {
    name: 'For the privacy page',
    text: privacySentence(domain.value?.host ?? '', choices.value, domain.value?.cookieDays ?? 0),
    did: 'The sentences for the privacy page are copied.',
  },
]);
const sources = [
  { value: 'path', title: 'The page’s own name' },
  { value: 'visit', title: 'What ?from= in the page’s address names' },
  { value: 'name', title: 'One name for all pages' },
  { value: 'nothing', title: 'None' },
];

const script = shallowRef<PlaceScript>();
const problem = ref('');
const load = async (): Promise<PlaceScript | undefined> => {
  problem.value = '';
  try {
    return (script.value = await getPlaceScript(domain.value?.host ?? ''));
  } catch (error) {
    script.value = undefined;
    problem.value = error instanceof Error ? error.message : String(error);
    return undefined;
  }
};
watch([() => domain.value?.host, () => catalogue.links], () => void (domain.value && load()), {
  immediate: true,
});
const save = async () => {
  const made = await load();
  if (made) saveFile('place.js', 'text/javascript', made.text);
};
</script>

<template>
  <div class="view">
    <place-tabs />
    <div class="sheet script">
      <header>
        <text-link @click="router.push({ name: 'pages' })">← Pages</text-link>
        <h1>Script for your pages</h1>
        <p class="quiet">
          One script on your site links shop addresses and keywords while a page is read, and counts what
          leaves it. The files stay as they are.
        </p>
      </header>
      <p v-if="!domain" class="quiet">Add a link domain in Setup first: the script comes from there.</p>
      <template v-else>
        <p class="knows" role="status">
          <template v-if="script">
            <b>{{ count(script.links) }} {{ script.links === 1 ? 'link' : 'links' }}</b> known to it,
            {{ (script.bytes / 1024).toFixed(1) }} KB as it is sent.
            <template v-if="script.left > 0">
              {{ count(script.left) }} more are left out, as every reader would wait for them; those with
              keywords come first.
            </template>
          </template>
          <span v-else-if="problem" class="bad">The script cannot be looked at: {{ problem }}</span>
          <template v-else>The script is being made …</template>
        </p>
        <div class="fields">
          <v-select
            v-if="catalogue.domains.length > 1"
            :model-value="domain.host"
            :items="catalogue.domains.map(({ host }) => host)"
            label="Link domain"
            @update:model-value="chosen = $event"
          />
          <v-select v-model="choices.sourceFrom" :items="sources" label="Source of its links" />
          <v-text-field
            v-if="choices.sourceFrom === 'name'"
            v-model="choices.source"
            label="Source"
            :error-messages="isNamed ? [] : ['Letters and digits, with - and _ between them.']"
          />
          <v-text-field
            v-model="choices.within"
            label="Keywords only within (CSS selector)"
            placeholder="the whole page"
            persistent-placeholder
          />
        </div>
        <div class="switches">
          <v-checkbox v-model="choices.addresses" label="Shop addresses become your links" />
          <v-checkbox v-model="choices.keywords" label="Keywords become links" />
          <v-checkbox v-model="choices.marks" label="Your links get their marks" />
          <v-checkbox v-model="choices.clicks" label="Count clicks on links that may not be cloaked" />
          <v-checkbox v-model="choices.reading" label="Tell how long and how far a page is read" />
          <v-checkbox
            v-if="choices.sourceFrom === 'visit'"
            v-model="choices.keeps"
            label="Keep the visit’s source until the tab is closed"
          />
        </div>
        <section v-for="{ name, text, did } in texts" :key="name" :aria-label="name">
          <h2>{{ name }}</h2>
          <p :class="name.startsWith('For') ? 'words' : 'mono code'">{{ text }}</p>
          <v-btn class="quiet-button" :disabled="!isNamed" @click="notice.copy(text, did)">Copy</v-btn>
        </section>
        <section aria-label="As a file">
          <h2>As a file</h2>
          <p class="quiet">
            Your site can serve it itself. It then knows the links as they are now: save it again once they
            change.
          </p>
          <v-btn class="quiet-button" @click="save">Save place.js</v-btn>
        </section>
      </template>
    </div>
  </div>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.script > * {
  max-width: 820px;
}
.knows {
  margin: 0 0 14px;
}
.bad {
  color: var(--copper);
}
.fields,
.switches {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(320px, 1fr));
  gap: 10px;
}
.switches {
  gap: 0 10px;
  margin: 6px 0 4px;
}
section {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px 12px;
  align-items: start;
  padding: 12px 0;
  border-top: 1px solid var(--line);
}
h2 {
  grid-column: 1 / -1;
}
section p {
  margin: 0;
  min-width: 0;
}
.code {
  padding: 8px 10px;
  overflow-wrap: anywhere;
  background: var(--sunk);
  border-radius: var(--leaf-tile);
}
</style>
