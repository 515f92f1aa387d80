<script setup lang="ts">
import PickFiles from '../theme/PickFiles.vue';
import type { Remote } from 'comlink';
import { wrap } from 'comlink';
import { computed, onUnmounted, ref, shallowRef, toRaw, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { AlikeWord, BadRow, RecordKind, Settings } from '#core/catalogue';
import { addTo } from '#core/catalogue';
import type { AnyRecord, ImportPlan, LinkField, WhenTaken } from '#core/formats';
import { columnsKey, isLinkField, linkFields, writeCatalogue, writeLinks } from '#core/formats';
import type { CatalogueChange } from '../data/catalogue.ts';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import { tellExported } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { filesOf } from './droppedFiles.ts';
import ImportCatalogue from './ImportCatalogue.vue';
import BadRows from '../theme/BadRows.vue';
import { today } from '../data/today.ts';
import { count } from '../theme/formats.ts';
import type { ImportWorker, ReadFile, ReadRows } from './import.worker.ts';

const catalogue = useCatalogue();
const notice = useNotice();
const router = useRouter();
const thread = new Worker(new URL('./import.worker.ts', import.meta.url), { type: 'module' });
const worker: Remote<ImportWorker> = wrap<ImportWorker>(thread);
onUnmounted(() => thread.terminate());

const file = shallowRef<ReadFile | undefined>();
const name = ref('');
const columns = ref<LinkField[]>([]);
/** How its rows were read; undefined while they are. */
const rows = shallowRef<ReadRows | undefined>();
const good = computed(() => rows.value?.good ?? 0);
const bad = computed(() => rows.value?.bad ?? []);
const domainId = ref('');
const whenTaken = ref<WhenTaken>('skip');
const plan = shallowRef<ImportPlan | undefined>();
const working = ref(false);

/** The domain that was chosen, or the one with the most links. */
const domain = computed(() => {
  const has = new Map<string, number>();
  for (const link of catalogue.links) addTo(has, link.domain);
  const [most] = catalogue.domains.toSorted((a, b) => (has.get(b.id) ?? 0) - (has.get(a.id) ?? 0));
  return catalogue.domain(domainId.value) ?? most;
});
const takenChoices: { value: WhenTaken; title: string }[] = [
  { value: 'skip', title: 'leave the row out' },
  { value: 'rename', title: 'take the next free one' },
  { value: 'replace', title: 'change the link that has it' },
];
const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(toRaw(value)));

/** How the columns are read; undefined for redirects, which have theirs. */
const shownColumns = () => (file.value?.kind === 'table' ? [...columns.value] : undefined);
const readRows = async () => {
  rows.value = await worker.rows(shownColumns());
};
const makePlan = async () => {
  plan.value =
    domain.value && good.value > 0
      ? await worker.plan(
          plain(domain.value),
          plain(catalogue.domains),
          plain(catalogue.links),
          whenTaken.value,
          Date.now(),
        )
      : undefined;
};
const bytesOf = async (picked: File) => new Uint8Array(await picked.arrayBuffer());
const isZip = (bytes: Uint8Array) => bytes[0] === 0x50 && bytes[1] === 0x4b && bytes[2] === 3;
/** Reads a file, or several of redirects together: a choice, a folder, a zip. */
const take = async (picked: readonly File[]) => {
  const [first] = picked;
  if (!first) return;
  name.value = picked.length === 1 ? first.name : `${count(picked.length)} files`;
  const bytes = await bytesOf(first);
  const unzipped = picked.length === 1 && isZip(bytes) ? await worker.unzip(bytes) : [];
  const many = async () =>
    Promise.all(picked.map(async (each) => ({ name: each.name, bytes: await bytesOf(each) })));
  const read =
    unzipped.length > 0
      ? await worker.readMany(unzipped)
      : picked.length > 1
        ? await worker.readMany(await many())
        : await worker.read(bytes, first.name, plain(catalogue.networks));
  file.value = read;
  rows.value = undefined;
  plan.value = undefined;
  if (read.kind === 'table') {
    const known = catalogue.settings.columns?.[columnsKey(read.header)];
    columns.value = read.header.map((title, i) => {
      const before = known?.[title] ?? '';
      return isLinkField(before) ? before : (read.columns[i] ?? 'ignored');
    });
  }
  if (read.kind === 'table' || read.kind === 'redirects') await readRows();
};
watch(columns, () => void readRows(), { deep: true });
watch([rows, whenTaken, domain], () => void makePlan());

const onDrop = (event: DragEvent) => void filesOf(event.dataTransfer).then(take);
const setColumn = (i: number, field: LinkField) => {
  columns.value = columns.value.map((one, at) => (at === i ? field : one));
};
const mend = async ({ line }: BadRow, cells: readonly string[]) =>
  (rows.value = await worker.mend([{ line, cells: [...cells] }], shownColumns()));
const mendAll = async (alike: AlikeWord, by: string) =>
  (rows.value = await worker.mendAlike({ ...alike }, by, shownColumns()));
/** Notes how the columns were read, for the next file with the same header; undoing the import leaves that. */
const rememberColumns = async () => {
  if (file.value?.kind !== 'table') return;
  const { header } = file.value;
  const settings = catalogue.settings;
  const mapping = Object.fromEntries(
    header.map((title, i) => [title.slice(0, 200), columns.value[i] ?? 'ignored']),
  );
  await catalogue.note('settings', {
    ...settings,
    columns: { ...settings.columns, [columnsKey(header)]: mapping },
  });
};
/** Has records kept as one step, all or none; stays on this page where they are not. */
const keepAll = async (changes: readonly CatalogueChange[], words: string) => {
  working.value = true;
  let step: string;
  try {
    step = await catalogue.save(...changes);
  } finally {
    working.value = false;
  }
  await router.push({ name: 'links' });
  notice.did(words, step);
};
const bring = async () => {
  if (!plan.value) return;
  const { made, replaced } = plan.value;
  await rememberColumns();
  await keepAll(
    [
      ...made.map((value) => ({ kind: 'link' as const, value })),
      ...replaced.map(({ after }) => ({ kind: 'link' as const, value: after })),
    ],
    `${count(made.length)} links are made${replaced.length > 0 ? `, ${count(replaced.length)} replaced` : ''}.`,
  );
};
/** Brings records of a catalogue file in, and its settings where they were asked for. */
const bringRecords = (list: readonly AnyRecord[], settings: Settings | undefined) =>
  keepAll(
    [
      ...list.map(({ kind, value }) => ({ kind: kind as RecordKind, value })),
      ...(settings ? [{ kind: 'settings' as const, value: settings }] : []),
    ],
    `${count(list.length)} records are brought in${settings ? ', and the settings' : ''}.`,
  );
const day = today();
const exportCsv = () => {
  saveFile(`links-${day}.csv`, 'text/csv', writeLinks(catalogue.links, catalogue.domains));
  tellExported('the links as CSV', catalogue.by);
};
/** Everything, for whoever it is handed to; with the keys of postbacks only for oneself. */
const exportJson = (secrets: 'included' | 'left out') => {
  const name = secrets === 'included' ? `fernhop-with-secrets-${day}.json` : `fernhop-${day}.json`;
  saveFile(name, 'application/json', writeCatalogue(catalogue.everyRecord(), Date.now(), secrets));
  tellExported(`everything as JSON, secrets ${secrets}`, catalogue.by);
  notice.say(
    secrets === 'included'
      ? 'The file holds the keys of your postbacks and what you share with networks: keep it to yourself.'
      : 'The file holds no key and no secret. A network that is brought in from it elsewhere gets new ones.',
  );
};
/** How many are new, domain by domain. */
const newWords = computed(() => {
  const made = new Map<string, number>();
  for (const link of plan.value?.made ?? []) addTo(made, link.domain);
  const words = [...made].map(([id, n]) => `${count(n)} new on ${catalogue.domain(id)?.host ?? id}`);
  return words.length > 0 ? words.join(', ') : 'None is new';
});
const linksWord = (n: number) => `${count(n)} ${n === 1 ? 'link' : 'links'}`;
const separators: Readonly<Record<string, string>> = {
  ',': 'commas',
  ';': 'semicolons',
  '\t': 'tabs',
  '|': 'bars',
};
</script>

<template>
  <div class="import" @dragover.prevent @drop.prevent="onDrop">
    <header>
      <h1>Import, export</h1>
      <v-btn class="quiet-button" @click="exportCsv">Links as CSV</v-btn>
      <v-btn class="quiet-button" @click="exportJson('left out')">Everything as JSON, without secrets</v-btn>
      <v-btn class="quiet-button" @click="exportJson('included')">Everything with secrets</v-btn>
    </header>
    <pick-files multiple accept=".zip,.csv,.tsv,.txt,.json,.conf,.htaccess,.php,text/*" @files="take">
      <strong>Drop files or a folder here, or choose them.</strong>
      <span class="quiet">
        A table of links (CSV), a catalogue of Fernhop (JSON), or redirects made by hand: .htaccess, nginx,
        Caddyfile, _redirects, PHP files; of these several at once, a whole folder, or a zip.
      </span>
    </pick-files>

    <p v-if="file?.kind === 'nothing'" class="bad" role="alert">{{ name }}: {{ file.message }}</p>

    <template v-if="file?.kind === 'table'">
      <p>
        <strong>{{ name }}</strong>: {{ count(file.rows) }} rows, separated by
        {{ separators[file.delimiter] ?? file.delimiter }}, {{ file.encoding }}.
      </p>
      <div class="wide">
        <small-table>
          <thead>
            <tr>
              <th v-for="(title, i) in file.header" :key="i" scope="col">
                {{ title }}<br />
                <v-select
                  single-line
                  class="small-field"
                  :items="linkFields"
                  :model-value="columns[i] ?? null"
                  :aria-label="`What ${title} holds`"
                  @update:model-value="$event && setColumn(i, $event)"
                />
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(row, i) in file.sample" :key="i">
              <td v-for="(cell, n) in row" :key="n">{{ cell }}</td>
            </tr>
          </tbody>
        </small-table>
      </div>
    </template>
    <template v-else-if="file?.kind === 'redirects'">
      <p>
        <strong>{{ name }}</strong>: redirects as {{ file.formats.join(', ') || 'nothing that is known' }} has
        them.
      </p>
      <ul v-if="file.unread.length > 0" class="unread">
        <li v-for="(line, i) in file.unread" :key="i">
          <template v-if="line.file !== name"
            >{{ line.file }}<template v-if="line.line > 0">, </template></template
          >
          <template v-if="line.line > 0"
            >{{ line.file === name ? 'Line' : 'line' }} {{ line.line }},
            <code>{{ line.text }}</code></template
          >
          {{ line.why }}
        </li>
      </ul>
    </template>
    <import-catalogue
      v-else-if="file?.kind === 'catalogue'"
      :name="name"
      :file="file"
      :working="working"
      @bring="bringRecords"
    />

    <v-skeleton-loader
      v-if="(file?.kind === 'table' || file?.kind === 'redirects') && !rows"
      type="heading, text, button"
      aria-label="Its rows are read"
    />
    <template v-else-if="file?.kind === 'table' || file?.kind === 'redirects'">
      <bad-rows
        v-if="bad.length > 0"
        :rows="bad"
        :alike="rows?.alike ?? []"
        :total="bad.length"
        :header="file.kind === 'table' ? file.header : ['slug', 'destination', 'redirect type']"
        @mend="mend"
        @mend-all="mendAll"
      />

      <section aria-label="What will happen">
        <h2>{{ count(good) }} {{ good === 1 ? 'row is' : 'rows are' }} good</h2>
        <div class="how">
          <v-select
            v-if="catalogue.domains.length > 1"
            label="Domain of links that name none"
            :items="catalogue.domains.map((d) => ({ value: d.id, title: d.host }))"
            :model-value="domain?.id ?? null"
            @update:model-value="domainId = $event"
          />
          <v-select v-model="whenTaken" :items="takenChoices" label="A slug that is taken" />
        </div>
        <p v-if="!domain" class="bad">First say in Setup which domain of yours the links are on.</p>
        <p v-if="plan" role="status">
          {{ newWords
          }}<template v-if="plan.renamed.length > 0"
            >, {{ count(plan.renamed.length) }} of them under another slug ({{
              plan.renamed[0]?.from
            }}
            becomes {{ plan.renamed[0]?.to }})</template
          ><template v-if="plan.replaced.length > 0">, {{ count(plan.replaced.length) }} changed</template
          ><template v-if="plan.same > 0">, {{ count(plan.same) }} here as they are</template
          ><template v-if="plan.skipped.length > 0">, {{ count(plan.skipped.length) }} left out</template>.
        </p>
        <v-btn
          color="primary"
          :disabled="!plan || plan.made.length + plan.replaced.length === 0"
          :loading="working"
          @click="bring"
        >
          Bring in {{ linksWord((plan?.made.length ?? 0) + (plan?.replaced.length ?? 0)) }}
        </v-btn>
      </section>
    </template>
  </div>
</template>

<style scoped>
.import {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
header h1 {
  margin-right: auto;
}
.wide {
  overflow-x: auto;
}
td,
th {
  max-width: 280px;
  padding: 4px 12px 4px 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 1px solid var(--line);
}
section {
  margin-top: 18px;
}
.how {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  margin: 8px 0;
}
.how > * {
  flex: 0 1 300px;
  margin-top: 6px;
}
.unread {
  color: var(--copper);
  font-size: 13px;
}
.bad {
  color: var(--copper);
}
</style>
