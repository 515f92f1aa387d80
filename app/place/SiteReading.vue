<script setup lang="ts">
import { ref } from 'vue';
import { count } from '../theme/formats.ts';
import { siteIn, useSiteReading } from './siteReading.ts';

/** Has the person's own site read, and tells how far that is. */
const props = defineProps<{ likely: string }>();
const reading = useSiteReading();
const typed = ref(reading.site || props.likely);
const problem = ref('');
const start = () => {
  const site = siteIn(typed.value);
  problem.value = site === undefined ? 'This is no address of a site, such as nightledge.example.' : '';
  if (site !== undefined) void reading.read(site);
};
/** More pages that were left out are told by their number. */
const mostLeft = 8;
const showsAll = ref(false);
</script>

<template>
  <section class="site" aria-label="Read your site">
    <form class="line" @submit.prevent="start">
      <v-text-field
        v-model="typed"
        class="address"
        label="Address of your site"
        inputmode="url"
        autocomplete="off"
        autofocus
        :disabled="reading.running"
        :error-messages="problem"
      />
      <v-btn v-if="reading.running" class="quiet-button" @click="reading.end">Stop</v-btn>
      <v-btn v-else type="submit" color="primary" :disabled="typed.trim() === ''">Read it</v-btn>
    </form>
    <p v-if="!reading.running && !reading.ended" class="quiet">
      Page by page, half a second apart, sitemap first; what its robots.txt keeps is left out.
    </p>
    <p v-else role="status">
      <b>{{ count(reading.pages) }} {{ reading.pages === 1 ? 'page' : 'pages' }} read</b>,
      {{ count(reading.withLinks) }} with your links<template v-if="reading.running">…</template
      ><template v-else>.</template>
      <span v-if="reading.because" class="bad"> {{ reading.because }}</span>
    </p>
    <ul v-if="reading.left.length > 0" aria-label="Not read">
      <li v-for="each in reading.left.slice(0, showsAll ? undefined : mostLeft)" :key="each.url">
        <span class="mono">{{ each.url.replace(/^https?:\/\//, '') }}</span>
        <span class="quiet"> {{ each.because }}</span>
      </li>
      <li v-if="reading.left.length > mostLeft && !showsAll">
        <text-link @click="showsAll = true"
          >{{ count(reading.left.length - mostLeft) }} more were not read</text-link
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
.site {
  margin-bottom: 14px;
  padding: 12px 14px;
  background: var(--sunk);
  border-radius: var(--leaf-card);
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: flex-start;
}
.line .v-btn {
  margin-top: 4px;
}
.address {
  flex: 1 1 260px;
  max-width: 460px;
}
p {
  margin: 8px 0 0;
}
ul {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}
li {
  overflow-wrap: anywhere;
}
.bad {
  color: var(--copper);
}
</style>
