<script setup lang="ts">
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
      <button
        v-for="check in checks"
        :key="check.about"
        type="button"
        :class="check.state"
        :title="check.because"
        :aria-expanded="shown?.about === check.about"
        @click="open = open === check.about ? undefined : check.about"
      >
        {{ labelOf(check) }}
      </button>
    </div>
    <p v-if="shown">
      {{ shown.because }}
      <button v-if="shown.mend" class="text-link" type="button" @click="emit('mend', shown.mend.destination)">
        {{ shown.mend.words }}
      </button>
      <button
        v-else-if="shown.about === 'account' && shown.state === 'unknown'"
        class="text-link"
        type="button"
        @click="register"
      >
        Register its network from this link
      </button>
      <router-link
        v-else-if="shown.about === 'program'"
        class="text-link"
        :to="`/programs/${link.network ?? ''}`"
      >
        See its programs
      </router-link>
      <button
        v-else-if="shown.about === 'marks' && shown.state === 'bad'"
        class="text-link"
        type="button"
        @click="emit('marks')"
      >
        Mark it
      </button>
      <router-link
        v-else-if="shown.about === 'shop' || shown.about === 'order page'"
        class="text-link"
        :to="{ name: 'trace', query: { link: link.id } }"
      >
        Trace it again
      </router-link>
      <router-link
        v-else-if="shown.about === 'postback' && shown.state !== 'good'"
        class="text-link"
        :to="{ name: 'first', params: { network: link.network ?? '' } }"
      >
        See its postback address
      </router-link>
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
button:not(.text-link) {
  all: unset;
  cursor: pointer;
  font-size: 13px;
}
button:focus-visible {
  outline: 2px solid var(--fern);
  outline-offset: 2px;
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
