<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Domain, Link } from '#core/catalogue';
import { hopOf } from '#core/catalogue';
import type { Device } from '#core/hop';
import { clickId, decide, dayIn, isSourceName, prepareLink, respond } from '#core/hop';

const props = defineProps<{ link: Link; domain: Domain }>();
const country = ref('DE');
const device = ref<Device>('phone');
const source = ref('');
const day = ref(dayIn(props.domain.zone, Date.now()));
const open = ref(false);

/** An example of a click ID, the same each time so that only what is chosen changes. */
const exampleBytes = Uint8Array.from([17, 34, 51, 68, 85, 102, 119, 136, 153, 170]);

const answer = computed(() => {
  const ready = prepareLink(
    props.link.id,
    props.link.destination,
    props.link.asText,
    hopOf(props.link, props.domain),
    props.domain.zone,
  );
  if (!ready.ok) return undefined;
  const at = Date.parse(`${day.value}T12:00:00Z`) || Date.now();
  const visit = {
    at,
    source: isSourceName(source.value) ? source.value : '',
    query: '',
    country: country.value.toUpperCase(),
    device: device.value,
  };
  const { headers, status } = respond(ready.value, visit, clickId(at, exampleBytes));
  const pairs = headers.flatMap((name, i) => (i % 2 === 0 ? [{ name, value: headers[i + 1] ?? '' }] : []));
  return { status, location: headers[1] ?? '', pairs, why: decide(ready.value, visit).why };
});
const sourceWrong = computed(() => source.value !== '' && !isSourceName(source.value));
</script>

<template>
  <section class="visitor" aria-label="As a visitor">
    <header>
      <h3 class="caps">As a visitor</h3>
      <button class="text-link" type="button" :aria-expanded="open" @click="open = !open">
        {{ open ? 'less' : 'whole response' }}
      </button>
    </header>
    <div class="chosen">
      <label
        ><span class="visually-hidden">Country</span
        ><input v-model="country" maxlength="2" size="2" class="mono"
      /></label>
      <label
        ><span class="visually-hidden">Device</span
        ><select v-model="device">
          <option value="phone">phone</option>
          <option value="tablet">tablet</option>
          <option value="desktop">desktop</option>
        </select></label
      >
      <label><span class="visually-hidden">Day</span><input v-model="day" type="date" /></label>
      <label
        ><span class="visually-hidden">Source</span
        ><input v-model="source" class="mono" placeholder="source" size="11"
      /></label>
    </div>
    <p v-if="sourceWrong" class="wrong">A source is letters, digits, - and _. This one would be dropped.</p>
    <template v-if="answer">
      <p class="mono hop" :class="{ short: !open }">
        {{ answer.status }} → {{ answer.location.replace(/^https?:\/\//, '') }}
      </p>
      <template v-if="open">
        <pre class="mono">HTTP/1.1 {{ answer.status }}
<template v-for="pair in answer.pairs" :key="pair.name">{{ pair.name }}: {{ pair.value }}
</template></pre>
        <p v-for="reason in answer.why" :key="reason.branch" class="why">{{ reason.because }}</p>
      </template>
    </template>
    <p v-else class="wrong">The destination has to be mended first.</p>
  </section>
</template>

<style scoped>
.visitor {
  flex: none;
  max-height: 45%;
  overflow: auto;
  padding: 10px 18px 12px;
  background: var(--sunk);
  border-top: 1px solid var(--line);
}
header {
  display: flex;
  justify-content: space-between;
}
h3 {
  margin: 0;
}
.chosen {
  display: flex;
  gap: 6px;
  margin: 6px 0;
}
label:last-child,
label:last-child input {
  flex: 1;
  min-width: 0;
  width: 100%;
}
input,
select {
  min-width: 0;
  padding: 2px 7px;
  height: 24px;
  font-size: 13px;
  color: var(--ink);
  background: var(--surface);
  border: 0;
  border-radius: 8px 2px;
}
input::placeholder {
  color: var(--ink-two);
  opacity: 1;
}
.hop.short {
  display: -webkit-box;
  -webkit-line-clamp: 2;
  -webkit-box-orient: vertical;
  overflow: hidden;
}
.hop {
  margin: 0;
  color: var(--fern);
  overflow-wrap: anywhere;
}
pre {
  margin: 8px 0 0;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.why,
.wrong {
  margin: 6px 0 0;
  font-size: 13px;
}
.wrong {
  color: var(--copper);
}
</style>
