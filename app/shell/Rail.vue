<script setup lang="ts">
import { useRoute } from 'vue-router';
import { useJournal } from '../data/journal.ts';
import { count, shortCount } from '../theme/formats.ts';
import { views } from './views.ts';

const route = useRoute();
const journal = useJournal();
const waiting = (name: string) => (name === 'reconcile' && !journal.arriving ? journal.waiting : 0);
const isHere = (to: string) => route.path === to || route.path.startsWith(`${to}/`);
</script>

<template>
  <nav class="rail" aria-label="Views">
    <router-link
      v-for="(view, i) in views"
      :key="view.name"
      :to="view.to"
      :class="{ here: isHere(view.to), foot: view.foot, 'first-foot': view.foot && !views[i - 1]?.foot }"
      :title="`${view.label} (key ${i + 1})`"
      :aria-current="isHere(view.to) ? 'page' : undefined"
    >
      <v-icon :icon="view.icon" size="18" aria-hidden="true" /><span>{{ view.label }}</span
      ><b v-if="waiting(view.name) > 0" :title="`${count(waiting(view.name))} wait to be settled`">{{
        shortCount(waiting(view.name))
      }}</b>
    </router-link>
  </nav>
</template>

<style scoped>
.rail {
  width: 166px;
  flex: none;
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 14px 10px 12px;
  border-right: 1px solid var(--line);
}
a {
  display: flex;
  align-items: center;
  gap: 9px;
  height: 36px;
  padding: 0 11px;
  color: var(--ink);
  text-decoration: none;
  border-radius: var(--leaf-card);
}
a:hover {
  background: var(--sunk);
}
a.here {
  background: var(--fern);
  color: rgb(var(--v-theme-on-primary));
}
b {
  margin-left: auto;
  margin-right: -4px;
  padding: 0 6px;
  font-size: 12px;
  font-weight: 600;
  line-height: 18px;
  color: var(--copper);
  background: var(--copper-soft);
  border-radius: 8px 2px;
}
.first-foot {
  margin-top: auto;
}
@media (max-width: 1100px) {
  .rail {
    width: 58px;
  }
  b {
    display: none;
  }
  span {
    position: absolute;
    clip-path: inset(50%);
    width: 1px;
    overflow: hidden;
  }
}
@media (max-width: 600px) {
  .rail {
    order: 3;
    flex-direction: row;
    justify-content: space-around;
    width: 100%;
    padding: 4px 8px;
    border: 0;
    border-top: 1px solid var(--line);
  }
  .first-foot {
    margin: 0;
  }
  span {
    position: static;
    clip-path: none;
    width: auto;
    font-size: 13px;
  }
}
</style>
