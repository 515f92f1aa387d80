<script setup lang="ts">
import type { CaseKind } from '#core/reconcile';
import type { GroupView } from '#core/queries';
import { count, money } from '../theme/formats.ts';
import { caseWords } from './words.ts';

defineProps<{ groups: readonly GroupView[]; chosen: CaseKind | undefined; to: (kind: CaseKind) => object }>();

const day = 86_400_000;
const age = (oldest: number) => {
  const days = Math.floor((Date.now() - oldest) / day);
  return days < 2 ? 'since yesterday' : `${count(days)} days old`;
};
</script>

<template>
  <nav aria-label="To settle">
    <div class="head caps" aria-hidden="true"><span>To settle</span><span>Rows</span><span>Worth</span></div>
    <router-link
      v-for="group in groups"
      :key="group.kind"
      :to="to(group.kind)"
      :class="{ here: group.kind === chosen }"
      :aria-current="group.kind === chosen ? 'true' : undefined"
    >
      <span
        >{{ caseWords[group.kind][0]
        }}<small
          >{{ group.safe > 0 ? `${count(group.safe)} safe to accept` : caseWords[group.kind][1] }},
          {{ age(group.oldest) }}</small
        ></span
      >
      <b>{{ count(group.count) }}</b>
      <span class="worth">
        <b v-for="sum in group.worth" :key="sum.currency" :class="{ minus: sum.minor < 0 }">{{
          money(sum.minor, sum.currency)
        }}</b>
      </span>
    </router-link>
    <p v-if="groups.length === 0" class="quiet">Nothing waits here.</p>
  </nav>
</template>

<style scoped>
nav {
  overflow: auto;
}
.head,
a {
  display: grid;
  grid-template-columns: 1fr 48px 92px;
  gap: 8px;
  align-items: center;
  padding: 7px 20px;
  text-align: right;
}
.head > :first-child,
a > :first-child {
  text-align: left;
}
a {
  min-height: 49px;
  color: var(--ink);
  text-decoration: none;
  border-bottom: 1px solid var(--line);
  border-left: 4px solid transparent;
  padding-left: 16px;
}
a:hover {
  background: var(--sunk);
}
a.here {
  background: var(--copper-soft);
  border-left-color: var(--copper);
}
small,
.worth b {
  display: block;
}
small {
  font-size: 12px;
  color: var(--ink-two);
}
a.here small {
  color: var(--ink);
}
.worth b {
  white-space: nowrap;
}
.minus {
  color: var(--plum);
}
p {
  padding: 6px 20px;
}
</style>
