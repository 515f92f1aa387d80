<script setup lang="ts">
import { ref } from 'vue';
import type { Network } from '#core/catalogue';
import { firstProblem } from '#core/catalogue';
import { readAmount, writeAmount } from '#core/values';
import { useCatalogue } from '../../data/catalogue.ts';
import { useNotice } from '../../shell/notice.ts';
import { money } from '../../theme/formats.ts';

/** When a network pays by its own terms; without them nothing can be said to be late. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const notice = useNotice();
const edits = ref(false);
const days = ref('30');
const from = ref('');
const problem = ref('');
const begin = () => {
  const { pays, currency } = props.network;
  days.value = String(pays?.days ?? 30);
  from.value = pays && pays.from > 0 ? writeAmount(pays.from, currency) : '';
  problem.value = '';
  edits.value = true;
};
const save = async () => {
  const { pays: _, ...network } = props.network;
  const whole = /^\d{1,3}$/.test(days.value.trim()) ? Number(days.value) : Number.NaN;
  const least = readAmount(from.value.trim() || '0', network.currency);
  if (!(whole <= 730)) problem.value = 'Days after the end of the month: a whole number up to 730.';
  else if (!least.ok) problem.value = firstProblem(least);
  else if (least.value < 0) problem.value = 'The least it pays is typed without a minus.';
  else {
    const step = await catalogue.saveRecord('network', {
      ...network,
      pays: { days: whole, from: least.value },
    });
    edits.value = false;
    notice.did(`When ${network.name} pays is kept.`, step);
  }
};
</script>

<template>
  <form v-if="edits" class="terms" @submit.prevent="save">
    <v-text-field v-model="days" class="days" label="Days after the month’s end" inputmode="numeric" />
    <v-text-field
      v-model="from"
      class="least"
      :label="`Least it pays, ${network.currency}`"
      inputmode="decimal"
    />
    <v-btn type="submit" color="primary">Save</v-btn>
    <v-btn class="quiet-button" @click="edits = false">Cancel</v-btn>
    <p v-if="problem" class="open" role="alert">{{ problem }}</p>
  </form>
  <p v-else class="quiet">
    <template v-if="network.pays">
      It pays {{ network.pays.days }} days after a month’s end<template v-if="network.pays.from > 0"
        >, once {{ money(network.pays.from, network.currency) }} are owed</template
      >.
    </template>
    <template v-else>Say when it pays, and what is late is told.</template>
    <text-link @click="begin">
      {{ network.pays ? 'Change' : 'Terms of payment' }}
    </text-link>
  </p>
</template>

<style scoped>
.terms {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin: 8px 0;
}
.terms > * {
  flex: none;
}
.days,
.least {
  width: 200px;
}
.open {
  color: var(--copper);
}
</style>
