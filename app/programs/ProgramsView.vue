<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { moment } from '../theme/formats.ts';
import { bookmarklet, searchBookmarklet } from '../shell/bookmarklet.ts';
import AddNetwork from './AddNetwork.vue';
import NetworkPane from './NetworkPane.vue';
import PostbackBench from './postback/PostbackBench.vue';

const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
/** A network is added by hand where no link of it is at hand. */
const adding = computed(() => route.query['by'] === 'hand');
const bookmarkHint = ref(false);
const script = bookmarklet(location.origin);
const searchScript = searchBookmarklet(location.origin);
const chosen = computed(
  () =>
    catalogue.network(String(route.params['network'] ?? '')) ??
    (adding.value ? undefined : catalogue.networks[0]),
);
const opened = computed(() => String(route.params['network'] ?? '') !== '' || adding.value);
const programsOf = (id: string) =>
  catalogue.programs
    .filter((program) => program.network === id)
    .map((program) => program.name)
    .join(', ');
const last = (id: string) => {
  const at = journal.lastPostbacks.get(id);
  if (journal.arriving) return 'postbacks still arriving';
  if (at !== undefined) return `last postback ${moment(at)}`;
  const asked = catalogue.network(id)?.postback.placeholders.click ?? '';
  return asked === '' ? 'no postback address set up yet' : 'waiting for its first postback';
};
const open = (id: string) => void router.push({ name: 'programs', params: { network: id } });
</script>

<template>
  <div class="view" :class="{ opened }">
    <section class="left" aria-label="Networks">
      <header>
        <h1>Programs</h1>
        <v-btn class="quiet-button" :to="{ name: 'register' }">Add network</v-btn>
      </header>
      <p v-if="catalogue.networks.length === 0" class="quiet none">
        Networks you belong to stand here. Paste some of their tracking links, and they are registered from
        these.
      </p>
      <ul>
        <li v-for="network in catalogue.networks" :key="network.id">
          <a
            :href="`/programs/${network.id}`"
            :class="{ chosen: network.id === chosen?.id && !adding }"
            @click.prevent="open(network.id)"
          >
            <strong>{{ network.name }}</strong>
            <span class="quiet">{{ programsOf(network.id) || 'no program yet' }}</span>
            <span class="quiet">{{ last(network.id) }}</span>
          </a>
        </li>
      </ul>
      <p class="bookmark">
        <!-- A bookmarklet is what it is by its address; it is dragged, not opened. -->
        <a :href="script" class="drag" @click.prevent="bookmarkHint = true">Short link</a>
        <span class="quiet">
          {{
            bookmarkHint
              ? 'Drag it to the bookmarks of your browser, then press it there on a shop’s page.'
              : 'Drag this to your bookmarks. Pressed on a shop’s page, it opens Fernhop with that page in the paste bar.'
          }}
        </span>
      </p>
      <p class="bookmark">
        <a :href="searchScript" class="drag" @click.prevent="bookmarkHint = true">Copy a link</a>
        <span class="quiet">This one opens a small search of your links beside whatever you write in.</span>
      </p>
    </section>
    <aside class="right" aria-label="Network">
      <text-link class="to-list" @click="router.push({ name: 'programs' })"> ← Programs </text-link>
      <add-network v-if="adding" @added="open" @cancel="router.push({ name: 'programs' })" />
      <postback-bench
        v-else-if="chosen && route.name === 'bench'"
        :key="`bench ${chosen.id}`"
        :network="chosen"
        @back="open(chosen.id)"
      />
      <network-pane v-else-if="chosen" :key="chosen.id" :network="chosen" />
    </aside>
  </div>
</template>

<style scoped>
.view {
  flex: 1;
  display: flex;
  min-width: 0;
}
.left {
  width: 360px;
  flex: none;
  overflow: auto;
}
header {
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 15px 20px 9px;
}
.none {
  padding: 0 20px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  border-top: 1px solid var(--line);
}
li a {
  display: grid;
  padding: 8px 20px;
  color: inherit;
  text-decoration: none;
  border-bottom: 1px solid var(--line);
}
li a:focus-visible {
  outline-offset: -2px;
}
li a.chosen {
  background: var(--fern-soft);
  box-shadow: inset 4px 0 0 var(--fern);
}
li .quiet {
  font-size: 13px;
}
.bookmark {
  display: grid;
  gap: 6px;
  padding: 14px 20px;
  margin: 0;
  font-size: 13px;
}
.drag {
  justify-self: start;
  padding: 4px 14px;
  color: var(--fern);
  text-decoration: none;
  background: var(--fern-soft);
  border-radius: var(--leaf-button);
  cursor: grab;
}
.right {
  flex: 1;
  min-width: 0;
  display: flex;
  flex-direction: column;
  background: var(--surface);
  border-left: 1px solid var(--line);
}
.to-list {
  display: none;
  padding: 10px 22px 0;
}
@media (max-width: 760px) {
  .left {
    width: 100%;
  }
  .right {
    display: none;
  }
  .opened .left {
    display: none;
  }
  .opened .right {
    display: flex;
  }
  .to-list {
    display: block;
  }
}
</style>
