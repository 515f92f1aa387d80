<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue';
import type { Network } from '#core/catalogue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { useCatalogue } from '../../data/catalogue.ts';
import type { Row } from '../../sync/index.ts';
import { journalWorker, useJournal } from '../../data/journal.ts';
import { newSecret } from '../../data/random.ts';
import { useNotice } from '../../shell/notice.ts';
import { dayMonth, moment } from '../../theme/formats.ts';

/** How a postback is known to be the network's: its key, where it is sent from, its signature. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const journal = useJournal();
const notice = useNotice();
/** Long enough to change the address at the network without hurry. */
const overlapDays = 30;
const now = Date.now();
const before = computed(() => {
  const { previousKey: one } = props.network.postback;
  return one && one.until > now ? one : undefined;
});
const lastOld = shallowRef<number | undefined>();
watch(
  [() => props.network.id, () => journal.news],
  async ([id]) => {
    const found = await journalWorker.lastByOldKey(id);
    if (id === props.network.id) lastOld.value = found;
  },
  { immediate: true },
);
/** Saves the postback's settings otherwise; gives the step, or what is wrong with them. */
const save = async (
  change: (postback: Record<string, unknown>) => object,
): Promise<{ step: string } | { problem: string }> => {
  const { postback } = props.network;
  const checked = checkRecord('network', {
    ...JSON.parse(JSON.stringify(props.network)),
    postback: change(JSON.parse(JSON.stringify(postback))),
  });
  if (!checked.ok) return { problem: firstProblem(checked) };
  return { step: await catalogue.saveRecord('network', checked.value, began) };
};
const roll = async () => {
  const { key } = props.network.postback;
  const until = Date.now() + overlapDays * 86_400_000;
  const saved = await save((postback) => ({ ...postback, key: newSecret(), previousKey: { key, until } }));
  if ('problem' in saved) notice.say(saved.problem);
  else
    notice.did(
      `The address has a new key. The old one is good until ${dayMonth(until)}: set the new one at the network before.`,
      saved.step,
    );
};
const endOld = () => save(({ previousKey: _, ...postback }) => postback);

const editing = ref(false);
const senders = ref('');
const parameter = ref('');
const secret = ref('');
const timeParameter = ref('');
const windowMinutes = ref<number | null>(10);
const problem = ref('');
/** The network as it was when the form was opened. */
let began: Row | undefined;
const edit = () => {
  began = catalogue.rowNow(props.network.id);
  const { senders: list = [], signature } = props.network.postback;
  senders.value = list.join(', ');
  parameter.value = signature?.parameter ?? '';
  secret.value = signature?.secret ?? '';
  timeParameter.value = signature?.time?.parameter ?? '';
  windowMinutes.value = Math.round((signature?.time?.windowSeconds ?? 600) / 60);
  problem.value = '';
  editing.value = true;
};
const apply = async () => {
  if (timeParameter.value.trim() !== '' && windowMinutes.value === null) {
    problem.value = 'Say how many minutes the time may be off.';
    return;
  }
  const list = senders.value.split(/[\s,]+/).filter(Boolean);
  if ((parameter.value.trim() === '') !== (secret.value.trim() === '')) {
    problem.value = 'A signature needs both: the name of its parameter, and the secret.';
    return;
  }
  const saved = await save(({ senders: _1, signature: _2, ...postback }) => ({
    ...postback,
    ...(list.length > 0 && { senders: list }),
    ...(parameter.value.trim() !== '' && {
      signature: {
        parameter: parameter.value.trim(),
        secret: secret.value.trim(),
        ...(timeParameter.value.trim() !== '' && {
          time: { parameter: timeParameter.value.trim(), windowSeconds: (windowMinutes.value ?? 0) * 60 },
        }),
      },
    }),
  }));
  problem.value = 'problem' in saved ? saved.problem : '';
  editing.value = problem.value !== '';
};
</script>

<template>
  <p>
    Only who knows the key in the address can send.
    <template v-if="before"
      >The key before it is good until {{ dayMonth(before.until) }};
      {{ lastOld === undefined ? 'nothing came by it since' : `last used ${moment(lastOld)}` }}.
      <text-link @click="endOld">End it now</text-link></template
    >
    <text-link v-else @click="roll">Give it a new key</text-link>
  </p>
  <p v-if="!editing">
    {{
      network.postback.senders?.length
        ? `Taken from ${network.postback.senders.join(', ')}; what others send waits to be looked at.`
        : 'Taken from any address.'
    }}
    {{
      network.postback.signature
        ? `Its signature in ${network.postback.signature.parameter} is checked.`
        : 'It carries no signature.'
    }}
    <text-link @click="edit">Change who may send</text-link>
  </p>
  <form v-else @submit.prevent="apply">
    <v-text-field
      v-model="senders"
      label="Addresses it sends from, with commas between; empty for any"
      class="mono"
    />
    <v-text-field
      v-model="parameter"
      label="Parameter with the signature (HMAC-SHA-256 of the rest)"
      class="mono"
    />
    <v-text-field v-model="secret" label="Secret shared with the network" class="mono" autocomplete="off" />
    <template v-if="parameter.trim() !== ''">
      <v-text-field
        v-model="timeParameter"
        label="Parameter with the time it was sent, where the network signs one; empty for none"
        class="mono"
      />
      <v-number-input
        v-if="timeParameter.trim() !== ''"
        v-model="windowMinutes"
        :min="1"
        :max="10080"
        label="Minutes it may be off"
      />
    </template>
    <p class="quiet">
      What is signed is the address or the body, whichever holds the signature, and only that is read. What
      fails either is kept and acknowledged all the same; it counts once you say so in Reconcile.
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="buttons">
      <v-btn type="submit" color="primary">Save</v-btn>
      <v-btn class="quiet-button" @click="editing = false">Cancel</v-btn>
    </div>
  </form>
</template>

<style scoped>
p {
  margin: 0 0 4px;
}
form {
  display: grid;
  gap: 8px;
  max-width: 560px;
}
.buttons {
  display: flex;
  gap: 8px;
}
.bad {
  color: var(--copper);
}
</style>
