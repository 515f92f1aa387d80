<script setup lang="ts">
import { proxy } from 'comlink';
import { dequal } from 'dequal';
import { computed, onMounted, ref, shallowRef, toRaw } from 'vue';
import { useRouter } from 'vue-router';
import type { FeedEncoding } from '#core/formats';
import { feedEncodings } from '#core/formats';
import { shopOf } from '#core/link-parts';
import type { FeedChoices, FeedRole } from '#core/placing';
import { feedRoles } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { useNotice } from '../shell/notice.ts';
import { count, money, ownZone } from '../theme/formats.ts';
import PickFiles from '../theme/PickFiles.vue';
import { feedsWorker, useFeeds } from './feeds.ts';
import type { FeedLook, FeedSummary } from './feeds.worker.ts';
import PlaceTabs from './PlaceTabs.vue';
import { withFeed } from './takeProduct.ts';
import { dayAt } from '../data/today.ts';

/** A shop's feed: how it is written is found and shown, what it leaves open is asked, and it is kept in this browser to be searched. */
const router = useRouter();
const catalogue = useCatalogue();
const notice = useNotice();
const feeds = useFeeds();
onMounted(feeds.refresh);
const file = shallowRef<File | undefined>();
const look = shallowRef<FeedLook | undefined>();
const choices = ref<FeedChoices>({});
const program = ref('');
const summary = shallowRef<FeedSummary | undefined>();
const problem = ref('');
const working = ref(false);
const progress = ref(0);
const columns = ref(false);

const plain = <T,>(value: T): T => JSON.parse(JSON.stringify(toRaw(value)));
const show = (next: FeedLook) => {
  look.value = next;
  const page = next.first[0]?.page;
  const shop = page === undefined ? undefined : shopOf(new URL(page).hostname);
  const known = catalogue.programs.find(({ hosts }) => hosts.some((host) => shopOf(host) === shop));
  if (program.value === '' && known) program.value = known.id;
};
const take = async (picked: File | undefined, encoding?: FeedEncoding) => {
  if (!picked) return;
  file.value = picked;
  look.value = undefined;
  summary.value = undefined;
  problem.value = '';
  choices.value = {};
  working.value = true;
  try {
    const opened = await feedsWorker().open(picked, catalogue.settings.currency, ownZone, encoding);
    if ('problem' in opened) problem.value = opened.problem;
    else show(opened);
  } finally {
    working.value = false;
  }
};
const choose = async (more: FeedChoices) => {
  choices.value = { ...choices.value, ...more };
  summary.value = undefined;
  show(await feedsWorker().look(plain(choices.value)));
};
const setRole = (heading: string, role: FeedRole) => {
  const others = Object.entries(choices.value.roles ?? {}).filter(
    ([, other]) => other !== role || role === 'nothing',
  );
  return choose({ roles: { ...Object.fromEntries(others), [heading]: role } });
};
const setCurrency = (code: string | null) => {
  if (/^[A-Z]{3}$/.test(code ?? '')) void choose({ currency: code ?? '' });
};
const asks = computed(() => look.value?.reading.asks ?? []);
const headingItems = computed(() => (look.value?.header ?? []).map((name) => ({ value: name, title: name })));
const encodingItems = computed(() => [...feedEncodings]);
const roleItems = feedRoles.map((value) => ({ value, title: value === 'nothing' ? 'left out' : value }));
const programItems = computed(() => catalogue.programs.map(({ id, name }) => ({ value: id, title: name })));
const earlier = computed(() => feeds.feeds.find((feed) => feed.program === program.value));
const read = async () => {
  working.value = true;
  progress.value = 0;
  problem.value = '';
  try {
    summary.value = await feedsWorker().read(
      plain(choices.value),
      proxy((done: number) => void (progress.value = done)),
    );
  } catch (error) {
    problem.value = `Reading stopped: ${error instanceof Error ? error.message : String(error)}. The file may have been cut off; download it again.`;
  } finally {
    working.value = false;
  }
};
const isShort = computed(() => {
  const [known, now] = [earlier.value?.products ?? 0, summary.value?.products ?? 0];
  return now < known / 2;
});
const keep = async () => {
  if (!file.value || !summary.value) return;
  const at = Math.min(file.value.lastModified, Date.now());
  working.value = true;
  try {
    await feedsWorker().keep(program.value, file.value.name, at);
  } catch (error) {
    problem.value = `This browser could not keep it: ${error instanceof Error ? error.message : String(error)}. Remove a feed, or give the browser more room.`;
    return;
  } finally {
    working.value = false;
  }
  await feeds.refresh();
  const picked = catalogue.products.filter((product) => product.program === program.value);
  const again = await feedsWorker().again(
    picked.map(({ id, program: of = '', name, code, page }) => ({ id, program: of, name, code, page })),
  );
  const changed = again.flatMap(({ id, product: feed }) => {
    const before = picked.find((product) => product.id === id);
    const after = before && withFeed(before, feed, dayAt(at));
    return after && !dequal(after, toRaw(before)) ? [{ kind: 'product' as const, value: after }] : [];
  });
  const products = `${count(summary.value.products)} products can be found.`;
  if (changed.length > 0) {
    const step = await catalogue.save(...changed);
    notice.did(
      `${products} ${count(changed.length)} you picked ${changed.length === 1 ? 'has' : 'have'} the feed’s price and day now.`,
      step,
    );
  } else notice.say(products);
  void router.push({ name: 'products', params: { product: '' } });
};
</script>

<template>
  <div class="view">
    <place-tabs />
    <div class="sheet feed" @dragover.prevent @drop.prevent="take($event.dataTransfer?.files[0])">
      <text-link @click="router.push({ name: 'products', params: { product: '' } })">← Products</text-link>
      <h1>Bring a feed</h1>
      <pick-files accept=".csv,.tsv,.txt,.xml,.gz,text/*" @files="take($event[0])">
        <strong>{{ file ? file.name : 'Choose or drop the file a shop gives you' }}</strong>
        <span class="quiet"
          >CSV, TSV or XML, also as .gz. It stays in this browser; what you pick from it is shared.</span
        >
      </pick-files>
      <p v-if="problem !== ''" class="bad" role="alert">{{ problem }}</p>
      <p v-if="working" class="quiet" role="status">
        {{ progress > 0 ? `${count(progress)} products read…` : 'Looking at the file…' }}
      </p>
      <template v-if="look">
        <p class="line">
          <span class="quiet">{{ look.format }}</span>
          <v-select
            class="small-field"
            single-line
            :model-value="look.encoding"
            :items="encodingItems"
            aria-label="Letters of the file"
            @update:model-value="$event && take(file, $event)"
          />
          <span v-if="look.broken > 0" class="bad"
            >{{ count(look.broken) }} bytes of it are no letters in that; they stand as �.</span
          >
        </p>
        <div class="fields">
          <v-select v-model="program" :items="programItems" label="Whose products are these?" />
          <v-select
            v-if="asks.includes('name')"
            :items="headingItems"
            label="Which column is the name?"
            @update:model-value="$event && setRole($event, 'name')"
          />
          <v-select
            v-if="asks.includes('page')"
            :items="headingItems"
            label="Which column is the page?"
            @update:model-value="$event && setRole($event, 'page')"
          />
          <v-select
            v-if="asks.includes('decimal')"
            :items="[
              { value: '.', title: 'a point: 1.299 is about one' },
              { value: ',', title: 'a comma: 1.299 is over a thousand' },
            ]"
            label="What stands before the decimals?"
            @update:model-value="$event && choose({ decimal: $event })"
          />
          <v-combobox
            v-if="asks.includes('currency')"
            :items="[...new Set([catalogue.settings.currency, 'EUR', 'USD', 'GBP'])]"
            label="In which currency are its prices?"
            @update:model-value="setCurrency"
          />
        </div>
        <section v-if="look.first.length > 0" class="first" aria-label="First products">
          <h2>So its first products are read</h2>
          <div v-for="(each, i) in look.first" :key="i" class="one">
            <strong>{{ each.name }}</strong>
            <span>{{ each.price ? money(each.price.amount, each.price.currency) : 'no price' }}</span>
            <span v-if="each.price?.list !== undefined" class="quiet"
              >instead of {{ money(each.price.list, each.price.currency) }}</span
            >
            <span class="mono quiet">{{ each.code }}</span>
            <span class="mono quiet page">{{ each.page }}</span>
          </div>
        </section>
        <p>
          <text-link :aria-expanded="columns" @click="columns = !columns">What each column is</text-link>
        </p>
        <div v-if="columns" class="columns">
          <template v-for="(heading, i) in look.header" :key="heading">
            <span class="mono">{{ heading }}</span>
            <v-select
              class="small-field"
              single-line
              :model-value="look.reading.roles[heading] ?? 'nothing'"
              :items="roleItems"
              :aria-label="`What ${heading} is`"
              @update:model-value="$event && setRole(heading, $event)"
            />
            <span class="quiet example">{{ look.examples[i] }}</span>
          </template>
        </div>
        <p v-if="!summary" class="line">
          <v-btn color="primary" :disabled="working || asks.length > 0 || program === ''" @click="read"
            >Read all of it</v-btn
          >
          <span v-if="program === ''" class="quiet">Say whose products these are.</span>
        </p>
      </template>
      <template v-if="summary">
        <p class="came" role="status">
          <b>{{ count(summary.products) }} products.</b>
          <template v-if="summary.unread > 0">
            {{ count(summary.unread) }} {{ summary.unread === 1 ? 'row' : 'rows' }} could not be read and
            {{ summary.unread === 1 ? 'is' : 'are' }} kept beside them.
          </template>
        </p>
        <p v-if="isShort" class="bad" role="alert">
          The feed before had {{ count(earlier?.products ?? 0) }}. This one may have been cut off, or be only
          a part.
        </p>
        <div v-if="summary.shownUnread.length > 0" class="unread">
          <p v-for="row in summary.shownUnread" :key="row.line">
            <b>Line {{ row.line }}.</b> {{ row.why }}
            <code>{{ row.text.slice(0, 160) }}</code>
          </p>
        </div>
        <p v-if="summary.doubts > 0" class="quiet">
          {{ count(summary.doubts) }} have something that could not be read and was left out:
          {{ summary.shownDoubts.join(' ') }}
        </p>
        <p class="line">
          <v-btn color="primary" :disabled="working || summary.products === 0" @click="keep">{{
            earlier ? 'Keep it in place of the one before' : 'Keep it'
          }}</v-btn>
        </p>
      </template>
    </div>
  </div>
</template>

<style scoped src="./sheet.css"></style>
<style scoped>
.feed > * {
  max-width: 760px;
}
h1 {
  margin: 6px 0 0;
}
h2 {
  margin-bottom: 6px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
.fields {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 10px;
}
.first {
  margin-top: 14px;
}
.one {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.page {
  overflow-wrap: anywhere;
}
.columns {
  display: grid;
  grid-template-columns: minmax(90px, 1fr) 150px minmax(0, 2fr);
  gap: 4px 12px;
  align-items: center;
  font-size: 13px;
}
.columns .mono,
.example {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.unread {
  padding: 8px 14px;
  font-size: 13px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.unread p {
  margin: 4px 0;
  overflow-wrap: anywhere;
}
.bad {
  color: var(--copper);
}
</style>
