<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { Domain, HopChoices, Link } from '#core/catalogue';
import { hopOf, redirectStatuses } from '#core/catalogue';
import { describeHop, redirectMeaning } from '#core/hop';
import RouteLeaf from './RouteLeaf.vue';

const props = defineProps<{ link: Link; domain: Domain; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const choices = ref<HopChoices>({ ...props.domain.hop });
const follows = ref(true);
const passList = ref('');

const current = computed(() => hopOf(props.link, props.domain));
watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    choices.value = { ...current.value };
    follows.value = Object.keys(props.link.hop).length === 0;
    passList.value = Array.isArray(current.value.pass) ? current.value.pass.join(', ') : '';
  },
  { immediate: true },
);
const passKind = computed({
  get: () => (Array.isArray(choices.value.pass) ? 'list' : choices.value.pass),
  set: (kind: 'none' | 'all' | 'list') => (choices.value.pass = kind === 'list' ? [] : kind),
});
const permanent = computed(() => choices.value.status === 301 || choices.value.status === 308);
const save = () => {
  const pass =
    passKind.value === 'list' ? passList.value.split(/[\s,]+/).filter(Boolean) : choices.value.pass;
  emit('save', { ...props.link, hop: follows.value ? {} : { ...choices.value, pass } });
};
const passOptions = [
  { value: 'none', title: 'Pass no parameters on' },
  { value: 'list', title: 'Pass those on a list' },
  { value: 'all', title: 'Pass all parameters on' },
];
</script>

<template>
  <route-leaf
    label="Hop"
    editable
    :editing="editing"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    {{ describeHop(current) }}
    <template #editor>
      <v-checkbox v-model="follows" :label="`As ${domain.host} does: ${describeHop(domain.hop)}`" />
      <template v-if="!follows">
        <v-select v-model="choices.status" :items="[...redirectStatuses]" label="Redirect type" />
        <p class="quiet note">{{ redirectMeaning[choices.status] }}</p>
        <v-checkbox
          v-if="permanent"
          v-model="choices.cache"
          label="Let browsers keep it for a day: faster, but later clicks are not seen"
        />
        <v-checkbox
          v-model="choices.hideReferrer"
          label="Hide from the network where the visitor came from"
        />
        <v-select v-model="passKind" :items="passOptions" label="The visitor’s own parameters" />
        <v-text-field
          v-if="passKind === 'list'"
          v-model="passList"
          label="Names, with commas between"
          class="mono"
        />
      </template>
    </template>
  </route-leaf>
</template>

<style scoped>
.note {
  margin: 0;
  font-size: 13px;
}
</style>
