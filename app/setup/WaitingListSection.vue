<script setup lang="ts">
import { onMounted, shallowRef } from 'vue';
import { writeTable } from '#core/formats';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import type { Mail } from '../data/server.ts';
import { eraseWaitingList, getWaitingList, tellExported } from '../data/server.ts';
import { today } from '../data/today.ts';
import { useNotice } from '../shell/notice.ts';

/** The mail addresses visitors left on pages of closed links: exported for use, and erased when they are not needed. */
const catalogue = useCatalogue();
const notice = useNotice();
const waitingList = shallowRef<readonly Mail[]>([]);

const load = async () => {
  waitingList.value = await getWaitingList().then(
    (answer) => answer.waitingList,
    () => [],
  );
};
onMounted(load);
const save = () => {
  tellExported(`${waitingList.value.length} mail addresses as CSV`, catalogue.by);
  saveFile(
    `mail-addresses-${today()}.csv`,
    'text/csv',
    writeTable(
      ['at', 'link', 'mail', 'consent'],
      waitingList.value.map((m) => [
        new Date(m.at).toISOString(),
        catalogue.link(m.link)?.slug ?? m.link,
        m.mail,
        m.consent,
      ]),
    ),
  );
};
const erase = async () => {
  save();
  const { erased } = await eraseWaitingList();
  await load();
  notice.say(
    `${erased} addresses are erased on the server. The file that was saved just now still has them.`,
  );
};
</script>

<template>
  <section v-if="waitingList.length > 0" aria-labelledby="h-waiting-list">
    <h2 id="h-waiting-list">Mail addresses</h2>
    <p>{{ waitingList.length }} left on pages of closed links.</p>
    <div class="buttons">
      <v-btn class="quiet-button" @click="save">Save as CSV</v-btn>
      <v-btn class="quiet-button" @click="erase">Save and erase</v-btn>
    </div>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
  max-width: 640px;
  margin-top: 20px;
}
p {
  margin: 0;
}
.buttons {
  display: flex;
  gap: 8px;
}
</style>
