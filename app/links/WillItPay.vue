<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import type { PayCheck } from '#core/link-parts';
import { willItPay } from '#core/link-parts';
import type { Domain, Link } from '#core/catalogue';
import { marksOf } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { useRegistering } from '../programs/register/registering.ts';

const props = defineProps<{ link: Link; domain: Domain }>();
const emit = defineEmits<{ mend: [destination: string]; marks: [] }>();
const catalogue = useCatalogue();
const journal = useJournal();
const open = ref<PayCheck['about'] | undefined>();

const checks = computed(() =>
  willItPay(
    props.link,
    marksOf(props.link, props.domain),
    catalogue,
    journal.lastPostbacks.get(props.link.network ?? ''),
    Date.now(),
    journal.traces.get(props.link.id),
  ),
);
const shown = computed(
  () =>
    checks.value.find((check) => check.about === open.value) ??
    checks.value.find((check) => check.state === 'bad'),
);
const registering = useRegistering();
const router = useRouter();
/** The view where a network is registered, with this link in its field. */
const register = () => {
  registering.begin([props.link.destination]);
  return router.push({ name: 'register' });
};
const words = { good: '', bad: 'missing', unknown: 'not seen' } as const;
const labelOf = (check: PayCheck) =>
  check.state === 'good'
    ? check.about
    : `${check.about}: ${check.about === 'account' && check.state === 'unknown' ? 'unknown' : words[check.state]}`;
</script>

<template>
  <div class="pay">
    <div class="line">
      <strong>Will it pay?</strong>
      <text-link
        v-for="check in checks"
        :key="check.about"
        :class="check.state"
        :aria-expanded="shown?.about === check.about"
        @click="open = open === check.about ? undefined : check.about"
      >
        {{ labelOf(check) }}<hint>{{ check.because }}</hint>
      </text-link>
    </div>
    <p v-if="shown">
      {{ shown.because }}
      <text-link v-if="shown.mend" @click="emit('mend', shown.mend.destination)">
        {{ shown.mend.words }}
      </text-link>
      <text-link v-else-if="shown.about === 'account' && shown.state === 'unknown'" @click="register">
        Register its network from this link
      </text-link>
      <text-link v-else-if="shown.about === 'program'" :to="`/programs/${link.network ?? ''}`">
        See its programs
      </text-link>
      <text-link v-else-if="shown.about === 'marks' && shown.state === 'bad'" @click="emit('marks')">
        Mark it
      </text-link>
      <text-link
        v-else-if="shown.about === 'shop' || shown.about === 'order page'"
        :to="{ name: 'trace', query: { link: link.id } }"
      >
        Trace it again
      </text-link>
      <text-link
        v-else-if="shown.about === 'postback' && shown.state !== 'good'"
        :to="{ name: 'first', params: { network: link.network ?? '' } }"
      >
        See its postback address
      </text-link>
    </p>
  </div>
</template>

<style scoped>
.pay {
  flex: none;
  margin: 8px 18px 12px;
  padding: 7px 12px;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
}
.line .good {
  color: var(--fern);
}
.line .bad {
  color: var(--copper);
  font-weight: 600;
}
.line .unknown {
  color: var(--ink-two);
}
p {
  margin: 4px 0 0;
  font-size: 13px;
}
</style>
