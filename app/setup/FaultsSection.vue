<script setup lang="ts">
import { onMounted, shallowRef } from 'vue';
import { useCatalogue } from '../data/catalogue.ts';
import type { Fault } from '../data/server.ts';
import { getFaults } from '../data/server.ts';

/** Links of which a part cannot be used as it was kept: visitors go on all the same, and here it says what to mend. */
const catalogue = useCatalogue();
const faults = shallowRef<readonly Fault[]>([]);
onMounted(async () => {
  faults.value = await getFaults().then(
    (answer) => answer.faults,
    () => [],
  );
});
</script>

<template>
  <section v-if="faults.length > 0" aria-labelledby="h-faults">
    <h2 id="h-faults">To mend</h2>
    <p class="quiet">
      Parts of these links cannot be used as they are. Visitors are redirected without them.
    </p>
    <ul>
      <li v-for="fault in faults" :key="fault.link">
        <router-link :to="`/links/${fault.link}`">{{
          catalogue.link(fault.link)?.slug ?? fault.link
        }}</router-link>
        <div v-for="(problem, i) in fault.problems" :key="i">
          <code v-if="problem.path">{{ problem.path }}</code> {{ problem.message }}
        </div>
      </li>
    </ul>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
</style>
