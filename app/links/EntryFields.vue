<script setup lang="ts">
import type { Domain, Hours } from '#core/catalogue';
import HoursFields from './HoursFields.vue';

/** What a link is called and filed under, its address, and when it is open. */
export interface EntryDraft {
  title: string;
  slug: string;
  group: string;
  tags: string[];
  notes: string;
  hours: Hours;
  coupons: string[];
  couponSource: string;
}
const draft = defineModel<EntryDraft>({ required: true });
defineProps<{
  domain: Domain;
  groups: readonly string[];
  tags: readonly string[];
  keeps: string | undefined;
  asksEnd: boolean;
}>();
</script>

<template>
  <v-text-field v-model="draft.title" label="Title" />
  <v-text-field
    v-model="draft.slug"
    label="Slug"
    class="mono"
    :prefix="`${domain.host}/${domain.prefix}${domain.groups && draft.group ? `${draft.group}/` : ''}`"
  />
  <p v-if="keeps" class="quiet note">{{ keeps }} goes on answering.</p>
  <v-combobox v-model="draft.group" :items="[...groups]" label="Group" class="mono" />
  <v-combobox
    v-model="draft.tags"
    :items="[...tags]"
    label="Tags"
    multiple
    chips
    closable-chips
    hint="Enter ends a tag"
  />
  <v-combobox
    v-model="draft.coupons"
    :items="[]"
    label="Coupon codes handed out with it"
    multiple
    chips
    closable-chips
    hint="A reported sale with one of these and no click is counted here, as by coupon"
  />
  <v-text-field
    v-if="draft.coupons.length > 0"
    v-model="draft.couponSource"
    label="Where they are handed out (source)"
    class="mono"
  />
  <v-textarea v-model="draft.notes" label="Notes" rows="2" auto-grow />
  <p v-if="asksEnd" class="note asks">
    This reads like something that ends. When? A link nobody closes goes on leading to it.
  </p>
  <hours-fields v-model="draft.hours" :zone="domain.zone" :host="domain.host" />
</template>

<style scoped>
.note {
  margin: 0;
  font-size: 13px;
}
.asks {
  color: var(--copper);
}
</style>
