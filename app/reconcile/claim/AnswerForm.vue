<script setup lang="ts">
import { ref } from 'vue';
import type { ClaimAnswer } from '#core/catalogue';
import { claimAnswers, firstProblem } from '#core/catalogue';
import type { ClaimLine } from '#core/reconcile';
import { readAmount, writeAmount } from '#core/values';
import { money } from '../../theme/formats.ts';

/** What a network answered to one line of a claim. */
const props = defineProps<{ line: ClaimLine; answer: ClaimAnswer | undefined }>();
const emit = defineEmits<{ done: [answer: ClaimAnswer] }>();
const kind = ref<ClaimAnswer['kind']>(props.answer?.kind ?? 'accepted');
const amount = ref(
  props.answer?.amount === undefined ? '' : writeAmount(props.answer.amount, props.line.claimedCurrency),
);
const reason = ref(props.answer?.reason ?? '');
const problem = ref('');
const save = () => {
  const { claimed, claimedCurrency } = props.line;
  problem.value = '';
  let part: number | undefined;
  if (kind.value === 'in part') {
    const read = readAmount(amount.value.trim(), claimedCurrency);
    if (!read.ok) problem.value = firstProblem(read);
    else if (claimed === null || read.value <= 0 || read.value >= claimed)
      problem.value = `A part is less than the ${claimed === null ? 'money' : money(claimed, claimedCurrency)} claimed.`;
    else part = read.value;
  }
  if (kind.value === 'refused' && reason.value.trim() === '') problem.value = 'Say why they refuse.';
  if (problem.value !== '') return;
  emit('done', {
    kind: kind.value,
    reason: reason.value.trim(),
    at: Date.now(),
    ...(part !== undefined && { amount: part }),
  });
};
</script>

<template>
  <form class="answer" @submit.prevent="save">
    <v-select
      v-model="kind"
      class="kind"
      label="They"
      :items="claimAnswers.filter((one) => one !== 'in part' || line.claimed !== null)"
    />
    <v-text-field
      v-if="kind === 'in part'"
      v-model="amount"
      class="part"
      :label="`What they accept, ${line.claimedCurrency}`"
      inputmode="decimal"
    />
    <v-text-field v-model="reason" class="why" label="Their reason" maxlength="500" />
    <v-btn type="submit" color="primary">Keep answer</v-btn>
    <p v-if="problem" class="open" role="alert">{{ problem }}</p>
  </form>
</template>

<style scoped>
.answer {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 10px 0;
}
.answer > * {
  flex: none;
}
.kind {
  width: 150px;
}
.part {
  width: 200px;
}
.why {
  flex: 1;
  min-width: 200px;
}
.open {
  flex-basis: 100%;
  margin: 0;
  color: var(--copper);
}
</style>
