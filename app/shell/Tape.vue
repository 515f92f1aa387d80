<script setup lang="ts">
import type { TapeEvent } from '#core/queries';
import { computed } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { clockOrMoment, money } from '../theme/formats.ts';

const journal = useJournal();
const catalogue = useCatalogue();

const notCounted = {
  bot: 'bot, not counted',
  test: 'test, not counted',
  prefetch: 'prefetch, not counted',
  repeat: 'repeat visit',
  'not redirected': 'not redirected',
  counted: '',
} as const;

interface Line {
  readonly seq: number;
  readonly time: string;
  readonly words: string;
  readonly tone: string;
  readonly to: string | undefined;
}

const lineOf = (event: TapeEvent, now: number): Line => {
  const time = clockOrMoment(event.at, now);
  if (event.kind === 'lost')
    return {
      seq: event.seq,
      time,
      words: `${event.count} requests not written down: ${event.why === 'disk' ? 'the disk was full' : 'too many from one address'}`,
      tone: 'bad',
      to: undefined,
    };
  if (event.kind === 'postback') {
    const { event: e } = event.read;
    const link = catalogue.link(event.link);
    const amount = e.amount === null ? 'without amount' : money(e.amount, e.currency);
    return {
      seq: event.seq,
      time,
      words: `${e.unverified === 'pixel' ? 'own page' : 'postback'} ${catalogue.network(e.network)?.name ?? ''} ${amount} ${e.unverified ? 'unverified' : e.status} → ${link?.slug ?? 'no click found'}`,
      tone: e.unverified ? 'sand' : 'money',
      to: event.link ? `/links/${event.link}/click/${e.click}` : `/programs/${e.network}`,
    };
  }
  const { hop, outcome } = event.visit;
  const link = catalogue.link(hop.link);
  const source = hop.source === '' ? '' : ` ~${hop.source}`;
  const detail =
    outcome === 'counted' ? [hop.country, hop.device].filter(Boolean).join(' · ') : notCounted[outcome];
  return {
    seq: event.seq,
    time,
    words: `${link?.slug ?? 'a removed link'}${source} · ${detail}`,
    tone: outcome === 'counted' ? 'fern' : 'sand',
    to: hop.click === '' ? undefined : `/links/${hop.link}/click/${hop.click}`,
  };
};

const lines = computed(() => {
  const now = Date.now();
  return journal.tape.map((event) => lineOf(event, now));
});
const state = computed(() => {
  if (journal.stopped) return 'stopped, starting again';
  if (journal.arriving) return 'still arriving';
  if (journal.byServer) return 'from the server';
  return lines.value.length > 0 ? 'now' : 'quiet so far';
});
</script>

<template>
  <section class="tape mono" aria-label="Live events, newest first">
    <span class="now">{{ state }}</span>
    <template v-for="line in lines" :key="line.seq">
      <router-link v-if="line.to" :to="line.to" :class="line.tone"
        >{{ line.time }} {{ line.words }}</router-link
      >
      <span v-else :class="line.tone">{{ line.time }} {{ line.words }}</span>
    </template>
  </section>
</template>

<style scoped>
.tape {
  width: 100%;
  height: 30px;
  display: flex;
  align-items: center;
  gap: 30px;
  padding: 0 18px;
  overflow: hidden;
  white-space: nowrap;
  font-size: 12px;
  background: rgb(var(--v-theme-tape));
  color: rgb(var(--v-theme-on-tape));
}
a {
  color: inherit;
  text-decoration: none;
}
a:hover {
  text-decoration: underline;
}
a:focus-visible {
  outline-color: rgb(var(--v-theme-tape-fern));
  outline-offset: -1px;
}
.now {
  color: rgb(var(--v-theme-tape-fern));
}
.money,
.bad {
  color: rgb(var(--v-theme-tape-copper));
}
</style>
