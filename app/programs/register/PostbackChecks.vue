<script setup lang="ts">
import { computed } from 'vue';
import type { Network, Status } from '#core/catalogue';
import { statuses } from '#core/catalogue';
import type { PostbackCheck } from '#core/conversions';
import { checkPostback, statusMeant } from '#core/conversions';
import type { PostbackReading } from '#core/queries';
import { useCatalogue } from '../../data/catalogue.ts';
import LeafMark from '../../theme/LeafMark.vue';
import { moment, money } from '../../theme/formats.ts';
import { fieldWords } from '../postback/fieldWords.ts';

/** A postback that came, value by value: what is right, what is not, and what mends it. */
const props = defineProps<{ reading: PostbackReading; network: Network }>();
const catalogue = useCatalogue();
const event = computed(() => props.reading.read.event);
const checks = computed(() => checkPostback(props.reading.read, props.network));
/** Whose click it is; of a sample nobody asks. */
const match = computed(() => (props.reading.record.sample ? undefined : props.reading.match));
const shortened = (check: PostbackCheck) => {
  const slot = props.network.slots.find(({ fill }) => fill === '{click}');
  return check.kept !== undefined && slot !== undefined && slot.length > check.kept ? slot : undefined;
};
const teachLength = (check: PostbackCheck) => {
  const slot = shortened(check);
  const { kept } = check;
  if (!slot || kept === undefined) return;
  return catalogue.saveRecord('network', {
    ...props.network,
    slots: props.network.slots.map((one) => (one === slot ? { ...one, length: kept } : one)),
  });
};
const teach = (word: string, means: Status) =>
  catalogue.saveRecord('network', {
    ...props.network,
    postback: {
      ...props.network.postback,
      statuses: { ...props.network.postback.statuses, [word]: means },
    },
  });
</script>

<template>
  <p class="head">
    {{ moment(reading.record.at) }}:
    <strong>{{ event.amount === null ? 'no amount' : money(event.amount, event.currency) }}</strong>
    {{ event.status }}
    <span v-if="reading.record.sample" class="tile">sample</span>
  </p>
  <ul>
    <li v-for="check in checks" :key="check.field" :class="check.state">
      <leaf-mark :tone="check.state === 'good' ? 'fern' : 'copper'" />
      <span class="quiet">{{ fieldWords[check.field] }}</span>
      <span class="words">
        <span :class="{ mono: check.field === 'click' || check.field === 'txn' }">{{ check.words }}</span>
        <span v-if="check.unknownWord !== undefined" class="means">
          “{{ check.unknownWord }}” means
          <v-btn
            v-for="status in statuses"
            :key="status"
            class="quiet-button"
            :class="{ likely: statusMeant(check.unknownWord) === status }"
            @click="teach(check.unknownWord, status)"
            >{{ status }}</v-btn
          >
        </span>
        <v-btn v-if="shortened(check)" class="quiet-button" @click="teachLength(check)"
          >Remember that it keeps {{ check.kept }}</v-btn
        >
      </span>
    </li>
    <li v-if="match" :class="match.row >= 0 ? 'good' : 'bad'">
      <leaf-mark :tone="match.row >= 0 ? 'fern' : 'copper'" />
      <span class="quiet">its click</span>
      <span class="words"
        >{{ match.because }}
        <router-link
          v-if="match.row >= 0"
          :to="{ name: 'journey', params: { link: reading.link, click: reading.click } }"
          >The click on {{ catalogue.link(reading.link)?.slug ?? reading.link }}</router-link
        ></span
      >
    </li>
  </ul>
</template>

<style scoped>
.head {
  margin: 6px 0 4px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 14px 130px minmax(0, 1fr);
  gap: 8px;
  align-items: baseline;
  padding: 3px 0;
}
.words {
  overflow-wrap: anywhere;
}
.bad .words,
.absent .words {
  color: var(--copper);
}
.means {
  display: inline-flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  color: var(--ink);
}
.likely {
  color: var(--fern);
}
a {
  color: var(--fern);
}
@media (max-width: 700px) {
  li {
    grid-template-columns: 14px minmax(0, 1fr);
  }
  .words {
    grid-column: 2;
  }
}
</style>
