<script setup lang="ts">
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import { useSeals } from '../data/seals.ts';
import { type About, getAbout } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { count, dateWords, dayMonth, moment } from '../theme/formats.ts';

/** What can be proved of the journal: its seals, whether it still is what was sealed, and for how long it is kept. */
const catalogue = useCatalogue();
const choices = [
  { value: 0, title: 'All of them' },
  ...[6, 12, 24, 36].map((months) => ({ value: months, title: `${months} months` })),
];
const kept = computed(() => catalogue.settings.keepMonths ?? 0);
const chosen = ref<number | undefined>();
/** The moment before which requests would go. */
const before = computed(() => {
  const now = new Date();
  return Date.UTC(now.getUTCFullYear(), now.getUTCMonth() - (chosen.value ?? 0), 1);
});
const keep = async (months: number) => {
  chosen.value = undefined;
  const { keepMonths: _, ...rest } = catalogue.settings;
  await catalogue.saveRecord('settings', { ...rest, ...(months > 0 && { keepMonths: months }) });
};
const choose = (months: number) => {
  // What keeps more takes nothing away; what keeps less is asked for once more.
  if (months === 0 || (kept.value > 0 && months >= kept.value)) void keep(months);
  else chosen.value = months;
};
const seals = useSeals();
const notice = useNotice();
const damages = shallowRef<About['damages']>([]);
onMounted(async () => {
  damages.value = (await getAbout().catch(() => undefined))?.damages ?? [];
});
const newest = computed(() => seals.kept.at(-1));
const copy = async (hash: string) => {
  await navigator.clipboard.writeText(hash);
  notice.say('The seal is on the clipboard.');
};
const save = () =>
  saveFile(
    'seals.ndjson',
    'application/x-ndjson',
    seals.kept.map(({ hash, seq, at }) => `${JSON.stringify({ hash, seq, at })}\n`).join(''),
  );
</script>

<template>
  <section aria-labelledby="h-evidence">
    <h2 id="h-evidence">Evidence</h2>
    <p v-for="{ file, how } in damages" :key="file" class="bad" role="alert">
      <code>{{ file }}</code> of the journal is not what was sealed. {{ how }} Nothing of it was changed; what
      can be read is shown. <code>npm run verify</code> on the server says more.
    </p>
    <div v-if="seals.missing" class="alarm" role="alert">
      <p class="bad">
        The seal this browser kept on {{ moment(seals.missing.at) }}, up to record
        {{ count(seals.missing.seq) }}, is no longer in the server’s chain: the journal was sealed anew since,
        perhaps after it was altered. On the server,
        <code>npm run verify -- --seal {{ seals.missing.hash.slice(0, 16) }}</code> says the same; a backup
        from before shows what is different.
      </p>
      <v-btn class="quiet-button" @click="seals.beginAnew()">Keep the seals it has now</v-btn>
    </div>
    <p v-if="newest && !seals.missing">
      Up to record {{ count(newest.seq) }} the journal was sealed on {{ moment(newest.at) }}:
      <code>{{ newest.hash.slice(0, 16) }}</code>
      <text-link @click="copy(newest.hash)">Copy the seal</text-link>
    </p>
    <p v-else-if="!newest" class="quiet">
      The server seals its journal every ten minutes. It has sealed nothing yet.
    </p>
    <p v-if="newest && !seals.missing" class="quiet">
      This browser keeps the seals of {{ seals.kept.length === 1 ? 'one day' : `${seals.kept.length} days` }}
      <template v-if="seals.kept[0] && seals.kept.length > 1"
        >since {{ dayMonth(seals.kept[0].at) }}</template
      >
      and holds the server’s chain against them. With one kept elsewhere nobody can alter the journal
      unnoticed.
      <text-link @click="save">Save them</text-link>
    </p>
    <v-select
      :model-value="chosen ?? kept"
      :items="choices"
      label="Requests the server keeps one by one"
      @update:model-value="choose"
    />
    <div v-if="chosen !== undefined" role="status" class="ask">
      <p>
        The server’s files from before {{ dateWords(before) }} go within the hour, whole, and do not come
        back. Their daily counts, every conversion, the clicks of whoever bought, and their seals stay.
      </p>
      <v-btn color="primary" @click="keep(chosen)">Keep {{ chosen }} months</v-btn>
      <v-btn class="quiet-button" @click="chosen = undefined">Keep what there is</v-btn>
    </div>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
.alarm {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.v-select {
  margin-top: 6px;
}
.ask {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.bad {
  color: var(--copper);
}
</style>
