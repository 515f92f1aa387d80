<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { readLink } from '#core/anatomy';
import type { Link } from '#core/catalogue';
import { compileDestination } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import AnatomyText from './AnatomyText.vue';
import RouteLeaf from './RouteLeaf.vue';

const props = defineProps<{ link: Link; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
const destination = ref('');
const asText = ref<string[]>([]);

watch(
  () => props.editing,
  (editing) => {
    if (!editing) return;
    destination.value = props.link.destination;
    asText.value = [...props.link.asText];
  },
  { immediate: true },
);
const anatomy = computed(() =>
  readLink(
    props.editing ? destination.value.trim() : props.link.destination,
    catalogue.networks,
    catalogue.programs,
  ),
);
const checked = computed(() => compileDestination(destination.value.trim(), asText.value));
const problem = computed(() => (checked.value.ok ? '' : (checked.value.problems[0]?.message ?? '')));
/** A piece in braces that is none of our tokens and could be sent as it stands. */
const strange = computed(() => /^(\{.*\}) is no token/.exec(problem.value)?.[1]);

const save = () => {
  if (!checked.value.ok) return;
  const { network, program, ...rest } = props.link;
  const found = anatomy.value;
  emit('save', {
    ...rest,
    destination: destination.value.trim(),
    asText: asText.value.filter((piece) => destination.value.includes(piece)),
    ...(found.network ? { network: found.network.id } : network === undefined || found.host === '' ? {} : {}),
    ...(found.program
      ? { program: found.program.id }
      : found.network && found.network.id === network && program
        ? { program }
        : {}),
  });
};
const words = {
  account: 'Account',
  program: 'Program',
  creative: 'Creative',
  slot: 'Sub-ID slot',
  page: 'Page',
  other: 'Other',
};
</script>

<template>
  <route-leaf
    label="Destination"
    filled
    editable
    :editing="editing"
    :problem="problem"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    <anatomy-text :anatomy="anatomy" />
    <template #editor>
      <v-textarea
        v-model="destination"
        label="Destination"
        class="mono"
        rows="4"
        auto-grow
        spellcheck="false"
      />
      <v-btn v-if="strange" class="quiet-button" @click="asText.push(strange)"
        >Send {{ strange }} as it stands</v-btn
      >
      <table v-if="anatomy.pairs.length > 0" class="pairs">
        <caption class="visually-hidden">
          Parameters and what each is for
        </caption>
        <tbody>
          <tr v-for="(pair, i) in anatomy.pairs" :key="i" :title="pair.reason">
            <td class="mono">{{ pair.name }}</td>
            <td class="mono value">{{ pair.decoded === '' ? '(empty)' : pair.decoded }}</td>
            <td class="quiet role">{{ words[pair.role] }}</td>
          </tr>
        </tbody>
      </table>
      <p class="quiet note">
        Filled at each click: <code>{click} {source} {link} {country} {device} {day}</code>. Every other byte
        is sent as it stands here.
      </p>
    </template>
  </route-leaf>
</template>

<style scoped>
.pairs td {
  padding: 2px 10px 2px 0;
  vertical-align: top;
}
.role {
  white-space: nowrap;
}
.value {
  overflow-wrap: anywhere;
}
.note {
  margin: 0;
  font-size: 13px;
}
</style>
