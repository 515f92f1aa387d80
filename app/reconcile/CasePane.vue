<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Case, CaseKind, Scope } from '#core/reconcile';
import type { Evidence } from '#core/queries';
import { journalWorker, useJournal } from '../data/journal.ts';
import { count, money, moment } from '../theme/formats.ts';
import EvidenceCards from './EvidenceCards.vue';
import UnreadPostback from './UnreadPostback.vue';
import { useLinkName } from './linkName.ts';
import { useDecide } from './settle.ts';
import { caseWords } from './words.ts';

/** The cases of one kind, one after the other, each with what speaks for it and what can be done. */
const props = defineProps<{ kind: CaseKind; scope: Scope }>();
const route = useRoute();
const router = useRouter();
const journal = useJournal();
const decide = useDecide();
const most = 500;

const cases = shallowRef<readonly Case[]>([]);
const total = ref(0);
const safe = ref(0);
const evidence = shallowRef<Evidence | undefined>();
const choosing = ref(false);
const reason = ref('');
const working = ref(false);

const at = computed(() => {
  const found = cases.value.findIndex((one) => one.id === route.query['case']);
  return Math.max(0, found);
});
const one = computed(() => cases.value[at.value]);

watch(
  [() => props.kind, () => props.scope, () => journal.news],
  async ([kind, scope]) => {
    const found = await journalWorker.casesOfKind(kind, scope, most);
    if (kind !== props.kind) return;
    cases.value = found.cases;
    total.value = found.total;
    safe.value = found.safe;
  },
  { immediate: true },
);
watch(
  one,
  async (found, previous) => {
    // News makes the same case anew; what a person has open of it stays open.
    if (found?.id !== previous?.id) choosing.value = false;
    const got = found && (await journalWorker.evidence(found.id));
    if (found?.id === one.value?.id) evidence.value = got;
  },
  { immediate: true },
);
const goBy = (step: number) => {
  const next = cases.value[at.value + step];
  if (next) void router.replace({ query: { ...route.query, case: next.id } });
};
const settle = async (...args: Parameters<typeof decide>) => {
  working.value = true;
  // The next one takes its place, so that one hand can settle a row of them.
  const next = cases.value[at.value + 1] ?? cases.value[at.value - 1];
  try {
    await decide(...args);
    reason.value = '';
    const { case: _, ...query } = route.query;
    await router.replace({ query: { ...query, ...(next && { case: next.id }) } });
  } finally {
    working.value = false;
  }
};
const acceptAll = async () =>
  settle(await journalWorker.safeCases(props.kind, props.scope), 'accept', 'safe, accepted together');
const accept = () => {
  const found = one.value;
  if (!found) return;
  // What was only probable is given its click by accepting it.
  const click = found.kind === 'one click fits' ? (evidence.value?.visit?.hop.click ?? '') : '';
  void settle([found], found.proposal.as, reason.value, click);
};
/** Something else is the first thing to press. */
const isQuiet = computed(() => safe.value > 1 || one.value?.postback !== undefined);
const slugOf = useLinkName();
</script>

<template>
  <section v-if="one" class="case" :aria-label="caseWords[kind][0]">
    <header>
      <h2>{{ caseWords[kind][0] }}</h2>
      <span class="quiet">{{ at + 1 }} of {{ count(total) }}</span>
      <text-link :disabled="at === 0" aria-label="The one before" @click="goBy(-1)"> ← </text-link>
      <text-link :disabled="at + 1 >= cases.length" aria-label="The next one" @click="goBy(1)"> → </text-link>
      <span class="actions">
        <v-btn
          v-if="evidence && evidence.candidates.length > 0"
          class="quiet-button"
          :aria-expanded="choosing"
          @click="choosing = !choosing"
          >Choose another click</v-btn
        >
        <v-btn v-if="safe > 1" color="primary" :loading="working" @click="acceptAll"
          >Accept all {{ count(safe) }}</v-btn
        >
      </span>
    </header>
    <p>
      {{ one.because }}
      <template v-if="one.worth !== 0">
        Worth <strong>{{ money(one.worth, one.currency) }}</strong>.</template
      >
    </p>
    <template v-if="evidence && evidence.one.id === one.id">
      <unread-postback
        v-if="one.postback !== undefined && evidence.postbacks[0]"
        :one="one"
        v-bind="evidence.postbacks[0]"
      />
      <evidence-cards v-else-if="evidence.unit" :evidence="evidence" :unit="evidence.unit" />
    </template>
    <div v-if="choosing && evidence" class="candidates">
      <p class="quiet">Counted clicks on the same program before it, the nearest first.</p>
      <ul>
        <li v-for="visit in evidence.candidates" :key="visit.hop.click">
          <text-link @click="settle([one], 'choose', reason, visit.hop.click)">
            {{ moment(visit.hop.at) }} · {{ slugOf(visit.hop.link) }}
            {{ visit.hop.source === '' ? '' : `~${visit.hop.source}` }} · {{ visit.hop.country }} ·
            {{ visit.hop.device }}
          </text-link>
        </li>
      </ul>
    </div>
    <form class="settle" @submit.prevent="accept">
      <v-text-field
        v-model="reason"
        class="reason"
        single-line
        aria-label="Reason"
        placeholder="Reason, if it needs one"
        maxlength="500"
      />
      <v-btn
        type="submit"
        :color="isQuiet ? undefined : 'primary'"
        :class="{ 'quiet-button': isQuiet }"
        :loading="working"
        >{{ one.proposal.does }}</v-btn
      >
      <v-btn
        v-if="one.proposal.otherwise"
        class="quiet-button"
        @click="settle([one], 'write off', reason.trim() || (one.proposal.otherwise ?? ''))"
        >{{ one.proposal.otherwise }}</v-btn
      >
      <v-btn v-if="one.proposal.as !== 'ask'" class="quiet-button" @click="settle([one], 'ask', reason)"
        >Ask the network</v-btn
      >
      <span>
        <v-btn
          class="quiet-button"
          :disabled="reason.trim() === ''"
          @click="settle([one], 'write off', reason)"
          >Write off</v-btn
        >
        <hint v-if="reason.trim() === ''">Needs a reason</hint>
      </span>
    </form>
  </section>
  <p v-else class="quiet none">Nothing of this kind waits any more.</p>
</template>

<style scoped>
.case {
  padding: 13px 18px 0;
  overflow: auto;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 6px 10px;
}
.actions {
  margin-left: auto;
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.text-link[disabled] {
  color: var(--ink-two);
  cursor: default;
}
p {
  margin: 6px 0 10px;
}
.candidates ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.settle {
  position: sticky;
  bottom: 0;
  padding: 8px 0;
  background: var(--surface);
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 4px;
}
.reason {
  flex: 1;
  min-width: 180px;
}
.settle :disabled {
  opacity: 0.55;
  background: none !important;
}
.none {
  padding: 16px 18px;
}
</style>
