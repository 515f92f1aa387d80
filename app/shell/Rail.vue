<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { useRoute } from 'vue-router';
import { useJournal } from '../data/journal.ts';
import { count, shortCount } from '../theme/formats.ts';
import { views } from './views.ts';

/** The views: beside what is shown, as icons where there is less room, and as a bar below on a phone. */
defineProps<{ folded: boolean; bar: boolean }>();
const route = useRoute();
const journal = useJournal();
const waiting = (name: string) => (name === 'reconcile' && !journal.arriving ? journal.waiting : 0);
const isHere = (holds: readonly string[]) => holds.includes(route.path.split('/')[1] ?? '');
</script>

<template>
  <v-bottom-navigation v-if="bar" class="bar" tag="nav" aria-label="Views" :height="56" :elevation="0" grow>
    <v-btn
      v-for="view in views"
      :key="view.name"
      :to="view.to"
      :active="isHere(view.holds)"
      :aria-current="isHere(view.holds) ? 'page' : undefined"
    >
      <v-icon :icon="view.icon" size="19" aria-hidden="true" />
      <span>{{ view.label }}</span>
    </v-btn>
  </v-bottom-navigation>
  <v-navigation-drawer
    v-else
    permanent
    :rail="folded"
    :width="166"
    :rail-width="58"
    color="background"
    class="rail"
    tag="nav"
    aria-label="Views"
  >
    <router-link
      v-for="(view, i) in views"
      :key="view.name"
      :to="view.to"
      :class="{ here: isHere(view.holds), 'first-foot': view.foot && !views[i - 1]?.foot }"
      :aria-current="isHere(view.holds) ? 'page' : undefined"
    >
      <v-icon :icon="view.icon" size="18" aria-hidden="true" /><span :class="{ 'visually-hidden': folded }">{{
        view.label
      }}</span
      ><b v-if="waiting(view.name) > 0 && !folded">{{ shortCount(waiting(view.name)) }}</b>
      <hint
        >{{ view.label }}
        <template v-if="waiting(view.name) > 0"
          >, {{ count(waiting(view.name)) }} wait to be settled</template
        >
        <v-hotkey :keys="String(i + 1)" inline />
      </hint>
    </router-link>
  </v-navigation-drawer>
</template>

<style scoped>
.rail :deep(.v-navigation-drawer__content) {
  display: flex;
  flex-direction: column;
  gap: 2px;
  padding: 14px 10px 12px;
}
a:not(.v-btn) {
  flex: none;
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
.bar {
  border-top: 1px solid var(--line);
}
.bar :deep(.v-btn) {
  min-width: 0;
  padding: 0 2px;
}
.bar span {
  font-size: 12px;
  letter-spacing: 0;
}
</style>
