<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { useTheme } from 'vuetify';
import { zipSync } from 'fflate';
import type { ArticleChoices, Settings } from '#core/catalogue';
import type { Find } from '#core/articles';
import { usualArticles } from '#core/articles';
import { readAddress, pageChoices } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import { makeLink, makePageLink } from '../links/makeLink.ts';
import { filesOf } from '../links/droppedFiles.ts';
import { useNotice } from '../shell/notice.ts';
import { count } from '../theme/formats.ts';
import PickFiles from '../theme/PickFiles.vue';
import ArticleCompare from './ArticleCompare.vue';
import ArticleChoicesDialog from './ArticleChoicesDialog.vue';
import ArticlePage from './ArticlePage.vue';
import ArticleTable from './ArticleTable.vue';
import type { OpenArticle, OpenFile } from './articles.ts';
import { useArticles } from './articles.ts';
import FindPane from './FindPane.vue';
import PlaceTabs from './PlaceTabs.vue';

/** Articles that were written before: what could earn, what is wrong, and each change seen before it is made. */
const route = useRoute();
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const articles = useArticles();
const theme = useTheme();

const all = computed(() => articles.files.flatMap((file) => articles.articlesOf(file)));
const unread = computed(() => articles.files.filter(({ says }) => says !== undefined));
const here = computed(() =>
  all.value.find(
    ({ file, index }) =>
      file.id === String(route.params['file'] ?? '') && index === Number(route.params['index'] || 0),
  ),
);
const to = ({ file, index }: OpenArticle) => ({
  name: 'articles',
  params: { file: file.id, index: String(index) },
});
const title = ({ file, seen }: OpenArticle) => (file.seen?.isExport ? seen.title || 'An article' : file.name);

const passed = ref(0);
const problem = ref('');
const take = async (files: readonly File[]) => {
  problem.value = '';
  passed.value = await articles.openFiles(files);
  goToOnly();
};
const goToOnly = () => {
  const [only, ...others] = all.value;
  if (only && others.length === 0 && unread.value.length === 0) void router.push(to(only));
};
const canWrite = 'showDirectoryPicker' in window;
const takeFolder = async () => {
  try {
    // Only browsers that have it come here.
    const pick = (
      window as unknown as { showDirectoryPicker: (o: object) => Promise<FileSystemDirectoryHandle> }
    ).showDirectoryPicker;
    await articles.openFolder(await pick.call(window, { mode: 'readwrite' }));
    goToOnly();
  } catch (fault) {
    if (!(fault instanceof DOMException && fault.name === 'AbortError'))
      problem.value = `The folder could not be opened: ${fault instanceof Error ? fault.message : String(fault)}`;
  }
};
const pasted = ref('');
const pasting = ref(false);
const takePasted = async () => {
  const id = await articles.paste(pasted.value);
  pasted.value = '';
  pasting.value = false;
  const own = all.value.find(({ file }) => file.id === id);
  if (own) void router.push(to(own));
};

// The article that is looked at.
const page = ref('');
const chosen = ref(-1);
const text = ref('');
const comparing = shallowRef<{ before: string; after: string } | undefined>();
watch(
  () => here.value?.seen,
  async (seen, before) => {
    const own = here.value;
    comparing.value = undefined;
    if (!own || !seen) return;
    if (before?.title !== seen.title || before.words !== seen.words) chosen.value = -1;
    const [shown, { before: whole }] = await Promise.all([articles.page(own), articles.compare(own)]);
    if (here.value?.seen !== seen) return;
    page.value = shown;
    text.value = whole;
    if (chosen.value < 0 && seen.finds.length > 0) chosen.value = 0;
  },
  { immediate: true },
);
const states = computed(() => {
  const own = here.value;
  return own ? own.seen.finds.map((find) => articles.stateOf(own, find)) : [];
});
const accepted = computed(() => states.value.filter((state) => state === 'accepted').length);
const change = (finds: readonly Find[], into: 'accepted' | 'refused' | 'open') => {
  if (here.value) articles.change(here.value, finds, into);
};
const choicesNow = (): ArticleChoices => ({ ...usualArticles, ...catalogue.settings.articles });
const keepChoices = (choices: ArticleChoices): Promise<string> => {
  const value: Settings = { ...catalogue.settings, articles: choices };
  return catalogue.save({ kind: 'settings', value });
};
const saveChoices = async (choices: ArticleChoices) => {
  await keepChoices(choices);
};
const never = async (find: Find) => {
  const choices = choicesNow();
  const step = await keepChoices({ ...choices, never: [...choices.never, find.key] });
  notice.did('It is not found again, in any article.', step);
};
/** Makes the link that an address needs; the finds are then looked for anew. */
const make = async ({ make: address = '' }: Find) => {
  const [domain] = catalogue.domains;
  if (!domain) {
    problem.value = 'There is no domain for short links yet. Add one in Setup.';
    return;
  }
  const { domains, networks, programs, accounts, links } = catalogue;
  const register = { domains, networks, programs, accounts, links };
  const read = readAddress(address, register);
  const choice = pageChoices(address, register).find(({ made }) => made.ok);
  const made =
    read.kind === 'tracking'
      ? await makeLink({ linkParts: read.linkParts }, domain)
      : choice && (await makePageLink(choice, domain));
  if (made) notice.did(`${made.link.slug} is made.`, made.step);
  else
    problem.value = `No link can be made to ${address}. Paste it into the bar above, which says what is missing.`;
};
const source = ref('');
watch(here, (own) => (source.value = own?.seen.source ?? ''), { immediate: true });
const sourceProblem = computed(() =>
  /^(?:[A-Za-z0-9][A-Za-z0-9_-]{0,63})?$/.test(source.value)
    ? ''
    : 'A source is letters and digits, with - and _ between them.',
);
const setSource = () => {
  if (here.value && sourceProblem.value === '' && source.value !== here.value.seen.source)
    void articles.setSource(here.value, source.value);
};

const compare = async () => {
  comparing.value = comparing.value || !here.value ? undefined : await articles.compare(here.value);
};
const acceptedIn = (file: OpenFile) =>
  articles.articlesOf(file).reduce((sum, own) => sum + articles.acceptedOf(own).length, 0);
const changedFiles = computed(() => articles.files.filter((file) => acceptedIn(file) > 0));
const copyName = ({ name, seen, isPasted }: OpenFile) => {
  if (isPasted) return seen?.articles[0]?.form === 'html' ? 'article.html' : 'article.md';
  return name.split('/').at(-1) ?? name;
};
const saveCopy = async (file: OpenFile) =>
  saveFile(copyName(file), 'application/octet-stream', await articles.written(file));
const saveAll = async () => {
  const packed: Record<string, Uint8Array> = {};
  for (const file of changedFiles.value) packed[file.name] = await articles.written(file);
  saveFile('articles.zip', 'application/zip', new Uint8Array(zipSync(packed)));
};
const saveOver = async (files: readonly OpenFile[]) => {
  problem.value = '';
  const back: (() => Promise<void>)[] = [];
  try {
    for (const file of files) back.push(await articles.saveOver(file));
  } catch (fault) {
    problem.value = fault instanceof Error ? fault.message : String(fault);
  }
  if (back.length > 0)
    notice.say(back.length === 1 ? 'It is written.' : `${count(back.length)} files are written.`, {
      words: 'Undo',
      act: () => {
        void (async () => {
          try {
            for (const each of back) await each();
          } catch (fault) {
            problem.value = fault instanceof Error ? fault.message : String(fault);
          }
        })();
      },
    });
};
const copyText = async () => {
  if (!here.value) return;
  const { after } = await articles.compare(here.value);
  await navigator.clipboard.writeText(after);
  notice.say('The article is on the clipboard.');
};
const choosing = ref(false);
const encodings = [
  'utf-8',
  'windows-1252',
  'iso-8859-2',
  'windows-1251',
  'shift_jis',
  'gb18030',
  'euc-kr',
  'utf-16le',
];
</script>

<template>
  <div class="view">
    <place-tabs />
    <p v-if="problem !== ''" class="bad" role="alert">{{ problem }}</p>
    <div v-if="here" class="one">
      <div class="article">
        <header>
          <text-link
            v-if="all.length > 1 || unread.length > 0"
            @click="router.push({ name: 'articles', params: { file: '', index: '' } })"
            >← {{ count(all.length) }} articles</text-link
          >
          <div class="head">
            <h1>{{ title(here) }}</h1>
            <span class="quiet"
              >{{ count(here.seen.words) }} words, {{ count(here.seen.finds.length) }} finds</span
            >
          </div>
          <div class="does">
            <v-btn size="small" variant="text" @click="articles.close(here.file.id)">Close</v-btn>
            <v-btn
              size="small"
              variant="outlined"
              :disabled="accepted === 0"
              :aria-pressed="!!comparing"
              @click="compare"
              >{{ comparing ? 'Back to the article' : 'Compare' }}</v-btn
            >
            <v-btn
              v-if="here.file.isPasted"
              size="small"
              variant="outlined"
              :disabled="accepted === 0"
              @click="copyText"
              >Copy</v-btn
            >
            <v-btn
              v-if="here.file.handle"
              size="small"
              variant="outlined"
              :disabled="acceptedIn(here.file) === 0"
              @click="saveOver([here.file])"
              >Save over it</v-btn
            >
            <v-btn
              size="small"
              color="primary"
              :disabled="acceptedIn(here.file) === 0"
              @click="saveCopy(here.file)"
              >Save copy</v-btn
            >
          </div>
          <p class="line">
            <span class="quiet">source ~</span>
            <v-text-field
              v-model="source"
              class="small-field source"
              single-line
              aria-label="Source that its links tell"
              :error-messages="sourceProblem"
              @change="setSource"
            />
            <text-link @click="choosing = true">Limits and words</text-link>
            <span v-if="here.file.seen?.isGuessed" class="quiet"
              >Read as {{ here.file.seen.encoding }}.
              <v-select
                class="small-field encoding"
                single-line
                :model-value="here.file.seen.encoding"
                :items="encodings"
                aria-label="What it is written in"
                @update:model-value="$event && articles.readAs(here.file, $event)"
            /></span>
          </p>
          <p v-for="says in [...(here.file.seen?.left ?? []), ...here.seen.left]" :key="says" class="bad">
            {{ says }}
          </p>
        </header>
        <article-compare
          v-if="comparing"
          :key="comparing.after"
          :before="comparing.before"
          :after="comparing.after"
        />
        <article-page
          v-else
          :key="`${here.file.id} ${here.index} ${theme.global.name.value}`"
          :page="page"
          :finds="here.seen.finds"
          :states="states"
          :chosen="chosen"
          @choose="chosen = $event"
        />
      </div>
      <find-pane
        class="pane"
        :finds="here.seen.finds"
        :states="states"
        :chosen="chosen"
        :text="text"
        @choose="chosen = $event"
        @change="change"
        @never="never"
        @make="make"
      />
    </div>
    <div v-else class="start" @dragover.prevent @drop.prevent="filesOf($event.dataTransfer).then(take)">
      <header class="top">
        <h1>Articles</h1>
        <text-link @click="choosing = true">Limits and words</text-link>
      </header>
      <pick-files multiple accept=".html,.htm,.md,.markdown,.mdx,.xml,.rss" @files="take">
        <strong>Choose or drop articles, or a folder of them</strong>
        <span class="quiet"
          >HTML, Markdown, or a blog’s export as RSS. They are read in this browser; nothing is changed until
          you accept it.</span
        >
      </pick-files>
      <p class="line">
        <v-btn v-if="canWrite" size="small" variant="outlined" @click="takeFolder">Open a folder</v-btn>
        <v-btn size="small" variant="outlined" :aria-expanded="pasting" @click="pasting = !pasting"
          >Paste one</v-btn
        >
        <template v-if="changedFiles.length > 0">
          <v-btn
            v-if="changedFiles.every(({ handle }) => handle)"
            size="small"
            variant="outlined"
            @click="saveOver(changedFiles)"
            >Save over {{ count(changedFiles.length) }}</v-btn
          >
          <v-btn size="small" color="primary" @click="saveAll"
            >Save {{ count(changedFiles.length) }} as copies</v-btn
          >
        </template>
      </p>
      <template v-if="pasting">
        <v-textarea v-model="pasted" label="HTML or Markdown" rows="6" class="mono" />
        <v-btn size="small" color="primary" :disabled="pasted.trim() === ''" @click="takePasted"
          >Look at it</v-btn
        >
      </template>
      <p v-if="articles.waiting > 0" role="status" class="quiet">
        Reading {{ count(articles.waiting) }} {{ articles.waiting === 1 ? 'file' : 'files' }}…
      </p>
      <p v-if="passed > 0" class="quiet">
        {{ count(passed) }} {{ passed === 1 ? 'file is' : 'files are' }} no article by
        {{ passed === 1 ? 'its' : 'their' }} name and passed over.
      </p>
      <article-table v-if="all.length > 0" :list="all" />
      <p v-for="file in unread" :key="file.id" class="bad unread">
        <b>{{ file.name }}.</b> {{ file.says }}
        <v-select
          v-if="/letters/.test(file.says ?? '')"
          class="small-field encoding"
          single-line
          :items="encodings"
          :aria-label="`What ${file.name} is written in`"
          placeholder="written in…"
          @update:model-value="$event && articles.readAs(file, $event)"
        />
        <text-link @click="articles.close(file.id)">Leave it out</text-link>
      </p>
    </div>
    <article-choices-dialog
      v-if="choosing"
      :choices="choicesNow()"
      @close="choosing = false"
      @save="saveChoices"
    />
  </div>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.one {
  flex: 1;
  display: flex;
  min-height: 0;
}
.article {
  flex: 1;
  overflow: auto;
  min-width: 0;
  padding: 12px 20px 30px;
}
.article header {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
  margin-bottom: 10px;
}
.article header > p,
.article header > a {
  flex-basis: 100%;
}
.head {
  flex: 1 1 240px;
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
  min-width: 0;
  overflow-wrap: anywhere;
}
h1 {
  margin: 0;
}
.does {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
  margin: 0;
}
.source {
  flex: none;
  width: 180px;
  margin-left: -10px;
}
.encoding {
  display: inline-flex;
  width: 150px;
}
.pane {
  flex: none;
  width: 392px;
  border-left: 1px solid var(--line);
}
.start {
  flex: 1;
  overflow: auto;
  padding: 12px 20px 30px;
}
.start > * {
  max-width: 820px;
}
.top {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
.bad {
  color: var(--copper);
}
.unread {
  overflow-wrap: anywhere;
}
@media (max-width: 900px) {
  .one {
    flex-direction: column;
    overflow: auto;
  }
  .article {
    flex: none;
    overflow: visible;
  }
  .pane {
    width: 100%;
    height: auto;
    border-left: 0;
    border-top: 1px solid var(--line);
  }
}
</style>
