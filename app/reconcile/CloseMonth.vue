<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, ref, shallowRef } from 'vue';
import type { Network } from '#core/catalogue';
import { sameId } from '#core/catalogue';
import type { GroupView } from '#core/queries';
import { checksumOf } from '#core/reconcile';
import { sumByCurrency } from '#core/values';
import { useCatalogue } from '../data/catalogue.ts';
import { journalWorker } from '../data/journal.ts';
import { useSeals } from '../data/seals.ts';
import { useNotice } from '../shell/notice.ts';
import AskDialog from '../theme/AskDialog.vue';
import { count, sums } from '../theme/formats.ts';
import { monthWords } from './words.ts';

/** Closes a month with one network; where differences wait, it is asked whether they may. */
const props = defineProps<{
  network: Network;
  month: string;
  /** Why it cannot be closed now; empty when nothing is in the way. */
  whyOpen: string;
}>();
const catalogue = useCatalogue();
const seals = useSeals();
const notice = useNotice();
const asks = ref(false);
const working = ref(false);
/** What waits to be settled, as it was when the button was pressed. */
const groups = shallowRef<readonly GroupView[]>([]);
const waiting = computed(() => groups.value.reduce((sum, group) => sum + group.count, 0));
const worth = computed(() => sums(sumByCurrency(groups.value.flatMap((group) => group.worth))));

const close = async () => {
  working.value = true;
  try {
    const { network, month } = props;
    const seal = await seals.newest();
    const id = sameId('mon', network.id, month);
    const figures = await journalWorker.closing(network.id, month);
    // Whoever closed it meanwhile closed it first: where the figures differ, both are asked which stand.
    const step = await catalogue.saveRecord(
      'month',
      { ...figures, id, at: Date.now(), ...(seal && { seal }), checksum: await checksumOf(figures) },
      { record: id, kind: 'month', value: null },
    );
    notice.did(`${monthWords(month)} with ${network.name} is closed.`, step);
  } finally {
    working.value = false;
    asks.value = false;
  }
};
const press = async () => {
  groups.value = await journalWorker.queue({ network: props.network.id, month: props.month });
  if (waiting.value === 0) await close();
  else asks.value = true;
};
</script>

<template>
  <!-- A button that is not to be pressed hears no mouse: the hint hangs on what is around it. -->
  <span>
    <v-btn color="primary" :disabled="whyOpen !== ''" :loading="working" @click="press">Close month</v-btn>
    <hint>{{ whyOpen || 'Freeze its figures' }}</hint>
  </span>
  <ask-dialog v-model="asks" label="Close with differences open">
    <template #title>
      {{ count(waiting) }} {{ waiting === 1 ? 'difference is' : 'differences are' }} not settled<template
        v-if="worth !== ''"
        >, {{ worth }}</template
      >
    </template>
    The closed figures stay as they are now. What is settled later counts in the month in which it is.
    <template #answers>
      <v-btn color="primary" autofocus @click="asks = false">Settle them first</v-btn>
      <v-btn class="quiet-button" :loading="working" @click="close">Close all the same</v-btn>
    </template>
  </ask-dialog>
</template>
