<script setup lang="ts">
import { computed } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Kit } from '#core/catalogue';
import { disclosureOf } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import { useNotice } from '../shell/notice.ts';
import KitPane from './KitPane.vue';
import PlaceTabs from './PlaceTabs.vue';

/** Kits for posts: what is said where a page cannot be. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const kits = computed(() => catalogue.kits.toSorted((a, b) => b.createdAt - a.createdAt));
const chosen = computed(() => kits.value.find(({ id }) => id === String(route.params['kit'] ?? '')));
const links = computed(() =>
  catalogue.links
    .filter(({ archived }) => !archived)
    .map(({ id, title, slug }) => ({ value: id, title: `${title} (${slug})` })),
);
const open = (id: string) => void router.push({ name: 'kits', params: { kit: id } });
const make = async (link: string | null) => {
  const found = catalogue.link(link ?? undefined);
  if (!found) return;
  const kit: Kit = {
    id: newId('kit'),
    name: found.title.slice(0, 120),
    link: found.id,
    source: '',
    alt: '',
    text: '',
    action: '',
    disclosure: disclosureOf('post', 'short', catalogue.program(found.program)?.rules?.disclosure),
    createdAt: Date.now(),
  };
  const step = await catalogue.saveRecord('kit', kit);
  notice.did(`A kit for ${found.slug} is begun.`, step);
  open(kit.id);
};
</script>

<template>
  <div class="view" :class="{ opened: chosen }">
    <section class="left" aria-label="Kits for posts">
      <place-tabs />
      <header><h1>Kits for posts</h1></header>
      <v-autocomplete
        class="new"
        :items="links"
        :model-value="null"
        label="New kit for a link"
        hide-details
        @update:model-value="make"
      />
      <p v-if="kits.length === 0" class="quiet none">
        A kit is all that goes into one post: your own picture, the words, what to do, why the link is paid,
        and the link last.
      </p>
      <ul v-else>
        <li v-for="kit in kits" :key="kit.id" :class="{ chosen: kit.id === chosen?.id }">
          <a :href="`/place/kits/${kit.id}`" @click.prevent="open(kit.id)">
            <strong>{{ kit.name }}</strong>
            <span class="quiet"
              >{{ catalogue.link(kit.link)?.slug ?? 'a removed link'
              }}{{ kit.source === '' ? '' : ` ~${kit.source}` }}</span
            >
          </a>
        </li>
      </ul>
    </section>
    <aside class="right" aria-label="Kit">
      <text-link class="to-list" @click="router.push({ name: 'kits', params: { kit: '' } })"
        >← Kits for posts</text-link
      >
      <kit-pane
        v-if="chosen"
        :key="chosen.id"
        :kit="chosen"
        @removed="router.push({ name: 'kits', params: { kit: '' } })"
      />
      <p v-else-if="kits.length > 0" class="quiet nothing">Choose a kit, or begin one for a link.</p>
    </aside>
  </div>
</template>

<style scoped src="./place.css"></style>
<style scoped>
.new {
  padding: 0 20px 12px;
}
</style>
