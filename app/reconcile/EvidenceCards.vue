<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import type { Evidence } from '#core/queries';
import type { Unit } from '#core/reconcile';
import { computed } from 'vue';
import { money, moment, ownZone } from '../theme/formats.ts';
import { useLinkName } from './linkName.ts';

/** Click, postback and report row beside each other, with what differs marked. */
const props = defineProps<{ evidence: Evidence; unit: Unit }>();
const nameOf = useLinkName();

const ID_LENGTH = 26;
const postback = computed(() => props.evidence.postbacks.at(-1));
const click = computed(() => props.evidence.visit?.hop.click ?? '');
/** What came as click ID; a placeholder that stands as it was, too. */
const arrived = computed(() => props.unit.conversion?.click || (postback.value?.read.raw.click ?? ''));
const reported = computed(() => props.evidence.reported);
const slug = computed(() => {
  const { hop } = props.evidence.visit ?? {};
  return `${nameOf(hop?.link ?? '')}${hop?.source ? ` ~${hop.source}` : ''}`;
});
/** Where a value and the click's ID part. */
const parting = (value: string) => {
  let n = 0;
  while (n < value.length && value[n] === click.value[n]) n += 1;
  return n;
};
const parts = (value: string) => {
  const n = parting(value);
  const short = click.value !== '' && value.length < ID_LENGTH && n === value.length && value !== '';
  return { same: value.slice(0, n), other: value.slice(n), short };
};
const amount = (minor: number | null, currency: string) => (minor === null ? 'none' : money(minor, currency));
const differs = computed(() => {
  const { ours, theirs } = props.unit;
  return {
    amount: ours !== undefined && theirs !== undefined && ours.amount !== theirs.amount,
    status: ours !== undefined && theirs !== undefined && ours.counts !== theirs.counts,
    currency: ours !== undefined && theirs !== undefined && ours.currency !== theirs.currency,
  };
});
</script>

<template>
  <div class="cards">
    <section class="fern" aria-label="Click">
      <h3 class="caps">Click</h3>
      <dl v-if="evidence.visit">
        <dt>ID</dt>
        <dd class="mono">{{ click }}</dd>
        <dt>At</dt>
        <dd>{{ moment(evidence.visit.hop.at) }}</dd>
        <dt>Link</dt>
        <dd>
          <router-link :to="{ name: 'journey', params: { link: evidence.visit.hop.link, click } }"
            >{{ slug }}<hint>Show the whole journey</hint></router-link
          >
        </dd>
        <dt>Classified as</dt>
        <dd>{{ evidence.visit.outcome }}</dd>
      </dl>
      <p v-else class="quiet">{{ unit.match.because }}</p>
    </section>
    <section aria-label="Postback">
      <h3 class="caps">Postback</h3>
      <dl v-if="unit.conversion && postback">
        <dt>Click</dt>
        <dd class="mono">
          <template v-if="arrived !== ''"
            >{{ parts(arrived).same }}<mark v-if="parts(arrived).other">{{ parts(arrived).other }}</mark
            ><mark v-if="parts(arrived).short">…<hint>Cut off here</hint></mark></template
          >
          <mark v-else>none</mark>
        </dd>
        <dt>At</dt>
        <dd>{{ moment(unit.conversion.at) }}</dd>
        <dt>Amount</dt>
        <dd :class="{ differs: differs.amount || differs.currency }">
          {{ amount(unit.ours?.amount ?? null, unit.ours?.currency ?? '') }}
          <template v-if="unit.ours?.priced"> by its terms</template>
        </dd>
        <dt>State</dt>
        <dd :class="{ differs: differs.status }">{{ unit.conversion.status }}</dd>
        <dt>Txn</dt>
        <dd class="mono">{{ unit.conversion.txn || 'none' }}</dd>
        <dt>Came</dt>
        <dd>{{ evidence.postbacks.length }} × by {{ postback.record.via }}</dd>
      </dl>
      <p v-else class="quiet">None came.</p>
    </section>
    <section class="slate" aria-label="Report row">
      <h3 class="caps">Report row</h3>
      <dl v-if="reported">
        <dt>Click</dt>
        <dd class="mono">
          <template v-if="reported.click !== ''"
            >{{ parts(reported.click).same
            }}<mark v-if="parts(reported.click).other">{{ parts(reported.click).other }}</mark
            ><mark v-if="parts(reported.click).short">…<hint>Cut off here</hint></mark></template
          >
          <template v-else>none</template>
        </dd>
        <dt>At</dt>
        <dd>{{ moment(reported.at) }}</dd>
        <dt>Amount</dt>
        <dd :class="{ differs: differs.amount || differs.currency }">
          {{ amount(reported.amount, reported.currency) }}
        </dd>
        <dt>State</dt>
        <dd :class="{ differs: differs.status }">{{ reported.status }}</dd>
        <dt>Txn</dt>
        <dd class="mono">{{ reported.txn || 'none' }}</dd>
        <template v-for="before in reported.earlier" :key="before.reportedAt">
          <dt>Before</dt>
          <dd>{{ amount(before.amount, before.currency) }}, {{ before.status }}</dd>
        </template>
      </dl>
      <p v-else class="quiet">No row of theirs.</p>
    </section>
  </div>
  <p class="quiet">Times in {{ ownZone }}.</p>
</template>

<style scoped>
.cards {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 10px;
  align-items: start;
}
section {
  padding: 9px 12px;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
h3 {
  margin: 0 0 4px;
  line-height: 1.4;
}
.fern h3 {
  color: var(--fern);
}
.slate h3 {
  color: var(--slate);
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px 12px;
  margin: 0;
  font-size: 13px;
}
dt {
  color: var(--ink-two);
}
dd {
  margin: 0;
  text-align: right;
  overflow-wrap: anywhere;
}
dd a {
  color: var(--fern);
}
mark,
.differs {
  color: var(--copper);
  background: var(--copper-soft);
  border-radius: var(--leaf-tile);
}
.differs {
  padding: 0 4px;
  font-weight: 600;
}
p {
  margin: 0;
  font-size: 13px;
}
</style>
