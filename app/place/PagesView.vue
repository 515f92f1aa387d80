<script setup lang="ts">
import { computed, ref } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { UsedPage } from '#core/where-used';
import { usedCsv } from '#core/where-used';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { saveFile } from '../data/saveFile.ts';
import { useNotice } from '../shell/notice.ts';
import { count, dayMonth } from '../theme/formats.ts';
import { useArticleReading } from './articleReading.ts';
import { useNewest } from './newest.ts';
import PlaceTabs from './PlaceTabs.vue';
import SiteReading from './SiteReading.vue';
import { useSiteReading } from './siteReading.ts';
import type { UsedRow } from './usedRows.ts';
import { rowsByLink, rowsByPage } from './usedRows.ts';

/** Where links are used: every page and file that is known to carry some, every link with its pages, and what is to be mended there. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
const reading = useArticleReading();
const site = useSiteReading();
const { found, loaded } = useNewest<readonly UsedPage[]>(
  () => [journal.news, reading.news, catalogue.pages],
  reading.whereUsed,
  [],
);

const asked = ref(String(route.query['find'] ?? ''));
const byLink = computed(() => route.query['by'] === 'link');
const mendOnly = computed(() => route.query['mend'] === '1');
const turn = (change: Record<string, string | undefined>) =>
  void router.replace({ query: { ...route.query, ...change } });
const opened = ref('');
const readsSite = ref(site.running || site.ended);

const slugOf = (link: string | undefined): string => catalogue.link(link)?.slug ?? '';
const titleOf = (link: string | undefined): string =>
  catalogue.link(link)?.title ?? 'A link that was removed';
const bare = (name: string): string => name.replace(/^https?:\/\//, '');
const rows = computed(() => (byLink.value ? rowsByLink(found.value) : rowsByPage(found.value)));
const wordsOf = ({ page, link, details }: UsedRow): string =>
  [
    page?.name ?? '',
    page?.title ?? '',
    slugOf(link),
    link === undefined ? '' : titleOf(link),
    ...details.map((each) => `${slugOf(each.link)} ${each.page?.name ?? ''}`),
  ]
    .join(' ')
    .toLowerCase();
const shown = computed(() => {
  const words = asked.value.trim().toLowerCase();
  return rows.value.filter((row) => (!mendOnly.value || row.toMend > 0) && wordsOf(row).includes(words));
});
const toMend = computed(() => found.value.reduce((sum, page) => sum + page.toMend, 0));
const pagesToMend = computed(() => found.value.filter((page) => page.toMend > 0).length);
/** At most so many rows are drawn; the others are found by their names. */
const mostRows = 300;

const knownBy = ({ by, readAt, siteOnly }: UsedPage): string => {
  if (siteOnly) return 'by its visitors, whose browsers name the site alone';
  if (by === 'visitors') return 'by its visitors';
  if (by === 'script') return 'by its script';
  return `${by === 'file' ? 'file, read' : 'read'} ${dayMonth(readAt)}`;
};
const readingTime = ({ views, seconds, depth }: UsedPage): string =>
  views === 0
    ? ''
    : `read for ${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, '0')}, ${Math.round(depth)} % of it, in ${count(views)} page views`;
const timesWords = (times: number): string => (times > 1 ? `${count(times)} times` : '');
const visitorWords = (n: number): string => `${count(n)} ${n === 1 ? 'visitor' : 'visitors'}`;

/** The site whose pages carry a link domain's parent name, as the likeliest to be the person's own. */
const likelySite = computed(() => {
  const own = catalogue.domains.map(({ host }) => host.split('.').slice(1).join('.'));
  const page = found.value
    .filter(({ name }) => /^https?:/i.test(name) && URL.canParse(name))
    .map(({ name }) => new URL(name))
    .find(({ hostname }) => own.some((host) => hostname === host || hostname === `www.${host}`));
  return page?.origin ?? '';
});
const pagesInWords = computed(() => new Set(shown.value.map(({ page }) => page)));
const save = () =>
  saveFile(
    'where-used.csv',
    'text/csv',
    usedCsv(
      byLink.value ? found.value : found.value.filter((page) => pagesInWords.value.has(page)),
      (link) => catalogue.link(link)?.slug ?? link,
    ),
  );
const forget = async ({ record, name }: UsedPage) => {
  if (record === undefined) return;
  const step = await catalogue.save({ kind: 'page', value: null, id: record });
  notice.did(`${bare(name)} is forgotten, until it is read again.`, step);
};
</script>

<template>
  <div class="view">
    <place-tabs />
    <div class="sheet">
      <header class="top">
        <h1>Pages</h1>
        <span class="does">
          <v-btn class="quiet-button" :to="{ name: 'script' }">Script for your pages</v-btn>
          <v-btn class="quiet-button" :disabled="shown.length === 0" @click="save">Save as CSV</v-btn>
          <v-btn
            :color="readsSite ? undefined : 'primary'"
            :class="{ 'quiet-button': readsSite }"
            :aria-expanded="readsSite"
            @click="readsSite = !readsSite"
            >Read your site</v-btn
          >
        </span>
      </header>
      <site-reading v-if="readsSite" :likely="likelySite" />
      <p v-if="loaded && found.length > 0" class="sum" role="status">
        <template v-if="toMend > 0">
          <b class="bad">{{ count(toMend) }} to mend</b> on {{ count(pagesToMend) }} of
          {{ count(found.length) }} {{ found.length === 1 ? 'page' : 'pages' }}.
          <text-link @click="turn({ mend: mendOnly ? undefined : '1' })">{{
            mendOnly ? 'Show all' : 'Show those'
          }}</text-link>
        </template>
        <template v-else
          >Nothing to mend on {{ count(found.length) }} {{ found.length === 1 ? 'page' : 'pages' }}.</template
        >
        <span v-if="journal.arriving" class="quiet"> Visitors are still arriving.</span>
      </p>
      <p v-else-if="loaded" class="quiet">
        No page is known to carry a link yet. Read your site, open its files under Articles, or put the script
        into its pages: each is then listed here with its links.
      </p>
      <div v-if="found.length > 0" class="line">
        <v-btn-toggle
          :model-value="byLink ? 'link' : 'page'"
          mandatory
          density="compact"
          variant="outlined"
          aria-label="Listed by"
          @update:model-value="turn({ by: $event === 'link' ? 'link' : undefined })"
        >
          <v-btn value="page" size="small">By page</v-btn>
          <v-btn value="link" size="small">By link</v-btn>
        </v-btn-toggle>
        <v-text-field v-model="asked" class="search" label="Find a page or link" type="search" hide-details />
      </div>
      <p v-if="found.length > 0 && shown.length === 0" class="quiet">None is called so.</p>
      <div v-if="shown.length > 0" class="wide">
        <small-table :aria-label="byLink ? 'Links' : 'Pages'">
          <thead>
            <tr>
              <th scope="col">{{ byLink ? 'Link' : 'Page' }}</th>
              <th scope="col" class="number">To mend</th>
              <th scope="col" class="number">{{ byLink ? 'Pages' : 'Links' }}</th>
              <th scope="col" class="number">Visits</th>
              <th scope="col" class="more">Newest</th>
            </tr>
          </thead>
          <tbody>
            <template v-for="row in shown.slice(0, mostRows)" :key="row.key">
              <tr>
                <td class="name">
                  <text-link
                    :aria-expanded="opened === row.key"
                    @click="opened = opened === row.key ? '' : row.key"
                    >{{
                      row.page ? row.page.title || bare(row.page.name) : slugOf(row.link) || 'Removed'
                    }}</text-link
                  >
                  <div class="quiet under">
                    <template v-if="row.page">
                      <span v-if="row.page.title" class="mono">{{ bare(row.page.name) }}</span>
                      {{ knownBy(row.page) }}
                    </template>
                    <template v-else>{{ titleOf(row.link) }}</template>
                  </div>
                </td>
                <td class="number" :class="{ bad: row.toMend > 0 }">
                  {{ row.toMend > 0 ? count(row.toMend) : '' }}
                </td>
                <td class="number">{{ count(row.count) }}</td>
                <td class="number">
                  {{ row.page?.by === 'file' && row.visitors === 0 ? '' : count(row.visitors) }}
                </td>
                <td class="more">{{ row.newest === 0 ? '' : dayMonth(row.newest) }}</td>
              </tr>
              <tr v-if="opened === row.key" class="open">
                <td colspan="5">
                  <ul>
                    <li v-for="each in row.details" :key="each.key">
                      <router-link
                        v-if="each.link && slugOf(each.link)"
                        class="mono"
                        :to="{ name: 'links', params: { link: each.link } }"
                        >{{ slugOf(each.link) }}</router-link
                      >
                      <span v-else-if="each.page" class="mono">{{ bare(each.page.name) }}</span>
                      <span v-if="each.kind" class="mends">
                        <b class="bad">{{ each.kind }}.</b> {{ each.says }}
                      </span>
                      <span v-if="each.gone" class="quiet">stood there once</span>
                      <span class="quiet">{{
                        [timesWords(each.times), each.visitors > 0 ? visitorWords(each.visitors) : '']
                          .filter(Boolean)
                          .join(', ')
                      }}</span>
                    </li>
                  </ul>
                  <p v-if="row.page" class="foot quiet">
                    <span v-if="row.page.more > 0"
                      >{{ count(row.page.more) }} more addresses of yours stand there than are listed.</span
                    >
                    <span v-if="row.page.views > 0">{{ readingTime(row.page) }}</span>
                    <a
                      v-if="/^https?:/i.test(row.page.name)"
                      :href="row.page.name"
                      target="_blank"
                      rel="noopener noreferrer"
                      >Open the page</a
                    >
                    <text-link v-if="row.page.record" @click="forget(row.page)">Forget it</text-link>
                  </p>
                </td>
              </tr>
            </template>
          </tbody>
        </small-table>
      </div>
      <p v-if="shown.length > mostRows" class="quiet">
        {{ count(shown.length - mostRows) }} more are found by their names, or in the CSV.
      </p>
    </div>
  </div>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.top,
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
}
.top {
  margin-bottom: 8px;
}
.top h1 {
  flex: 1;
  margin: 0;
}
.does {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.sum {
  margin: 0 0 12px;
}
.line {
  margin-bottom: 12px;
}
.search {
  max-width: 360px;
}
.name {
  overflow-wrap: anywhere;
}
.under {
  font-size: 12px;
}
.bad {
  color: var(--copper);
}
ul {
  margin: 0;
  padding: 6px 0 4px;
  list-style: none;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  padding: 3px 0;
}
.mends {
  flex: 1 1 300px;
  min-width: 0;
  overflow-wrap: anywhere;
}
.open a {
  color: var(--fern);
}
.foot {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0 0 8px;
}
@media (max-width: 560px) {
  .search {
    max-width: none;
  }
}
</style>
