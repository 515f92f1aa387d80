<script setup lang="ts">
import { computed } from 'vue';
import { postbackFields } from '#core/catalogue';
import type { PostbackReading } from '#core/queries';
import { useCatalogue } from '../../data/catalogue.ts';
import LeafMark from '../../theme/LeafMark.vue';
import { moment, money } from '../../theme/formats.ts';

/** One postback: as it came, what was read from it, the click it leads to, and what went wrong. */
const props = defineProps<{ reading: PostbackReading; whole?: boolean }>();
const catalogue = useCatalogue();
const event = computed(() => props.reading.read.event);
const troubles = computed((): string[] => {
  const { record, read, match, firstAt } = props.reading;
  return [
    ...(read.unread.length > 0 && !record.sample
      ? ['It counts nothing until what cannot be read is settled under Reconcile.']
      : []),
    ...read.problems.map(({ path, message }) => `${path}: ${message}`),
    ...(match.row < 0 && match.level !== 'unfilled' ? [match.because] : []),
    ...(event.value.amount === null && read.raw.amount === undefined
      ? ['No amount came; the terms of the program price it, where it has any.']
      : []),
    ...(event.value.txn === ''
      ? [
          event.value.click === ''
            ? 'Neither a transaction nor a click ID came: only the same bytes within a minute are taken for one.'
            : 'No transaction came: those of one click and amount within a day are taken for one.',
        ]
      : []),
    ...(firstAt !== undefined ? [`The very same came ${moment(firstAt)}; the two are one conversion.`] : []),
    ...(record.unverified === 'sender' ? [`${record.ip} is not on the list of senders.`] : []),
    ...(record.unverified === 'signature' ? ['Its signature is missing or wrong.'] : []),
    ...(record.unverified === 'time'
      ? ['The time it was signed with is missing, or too far from when it came.']
      : []),
    ...(record.signed === 'query' && record.body
      ? ['Only what stands in the address is signed; the body is not read.']
      : []),
    ...(record.signed === 'body' && record.query
      ? ['Only the body is signed; what stands in the address is not read.']
      : []),
    ...(record.unverified === 'pixel'
      ? ['A page of yours reported it; anybody could have, so it is not counted.']
      : []),
    ...(record.oldKey ? ['It came by the old key. Set the new address at the network.'] : []),
  ];
});
</script>

<template>
  <div class="head">
    <span
      >{{ moment(reading.record.at) }} · {{ event.event }} {{ event.txn }} · {{ event.status
      }}<span v-if="reading.record.sample" class="tile">sample</span></span
    >
    <strong>{{
      reading.read.unread.length > 0
        ? 'not read'
        : event.amount === null
          ? 'no amount'
          : money(event.amount, event.currency)
    }}</strong>
  </div>
  <code class="quiet raw"
    >{{ reading.record.via }} {{ reading.record.query ? `?${reading.record.query.slice(0, 2000)}` : ''
    }}{{ reading.record.body ? ` ${reading.record.body.slice(0, 2000)}` : '' }}</code
  >
  <small-table v-if="whole">
    <tbody>
      <tr v-for="field in postbackFields" :key="field">
        <th scope="row">{{ field }}</th>
        <td>
          <code v-if="reading.read.raw[field] !== undefined">{{ reading.read.raw[field] }}</code><span
            v-else
            class="quiet"
            >did not come</span
          >
        </td>
      </tr>
    </tbody>
  </small-table>
  <div v-if="reading.match.row >= 0" class="line">
    <leaf-mark tone="fern" /><span
      >{{ reading.match.because }}
      <router-link :to="{ name: 'journey', params: { link: reading.link, click: reading.click } }"
        >The click on {{ catalogue.link(reading.link)?.slug ?? reading.link }}</router-link
      ></span
    >
  </div>
  <div v-for="trouble in troubles" :key="trouble" class="line bad">
    <leaf-mark tone="copper" />{{ trouble }}
  </div>
  <div v-if="whole && troubles.length === 0" class="line">
    <leaf-mark tone="fern" />Nothing would go wrong.
  </div>
</template>

<style scoped>
.head {
  display: flex;
  justify-content: space-between;
}
.tile {
  margin-left: 8px;
}
.raw {
  display: block;
  font-size: 12px;
  word-break: break-all;
}
.small-table {
  margin: 6px 0;
}
th {
  padding: 1px 18px 1px 0;
  font-weight: 400;
  text-align: left;
  color: var(--ink-two);
}
.line {
  display: flex;
  align-items: center;
  gap: 7px;
  font-size: 13px;
}
.line a {
  color: var(--fern);
}
.bad {
  color: var(--copper);
}
</style>
