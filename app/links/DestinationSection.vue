<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch } from 'vue';
import { labelProblems, readLink } from '#core/link-parts';
import type { Link } from '#core/catalogue';
import { firstProblem } from '#core/catalogue';
import { compileDestination } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';
import { firstDrawn } from '../shell/firstDrawn.ts';
import LinkPartsText from './LinkPartsText.vue';
import RouteSection from './RouteSection.vue';

const DestinationFields = defineAsyncComponent(() => import('./DestinationFields.vue'));
const StandsOn = defineAsyncComponent(() => import('./StandsOn.vue'));
const props = defineProps<{ link: Link; editing: boolean }>();
const emit = defineEmits<{ edit: []; save: [link: Link]; cancel: [] }>();
const catalogue = useCatalogue();
/** Some page or file that was read carries it: what needs a hand there is then looked for. */
const isRead = computed(() =>
  catalogue.pages.some(({ links }) => links.some((each) => each.link === props.link.id)),
);
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
const linkParts = computed(() =>
  readLink(
    props.editing ? destination.value.trim() : props.link.destination,
    catalogue.networks,
    catalogue.programs,
  ),
);
const checked = computed(() => compileDestination(destination.value.trim(), asText.value));
/** What no slot of the network takes: more labels than it has, or a value that could not be told apart. */
const refused = computed(() => {
  const { network, pairs } = linkParts.value;
  const labels = Object.fromEntries(pairs.filter((p) => p.role === 'slot').map((p) => [p.name, p.raw]));
  const found = network ? labelProblems(network, labels, catalogue.accounts) : [];
  return found.find((p) => p.refused)?.message;
});
const problem = computed(() => (checked.value.ok ? (refused.value ?? '') : firstProblem(checked.value)));
/** A piece in braces that is none of our tokens and could be sent as it stands. */
const strange = computed(() => /^(\{.*\}) is no token/.exec(problem.value)?.[1]);

const save = () => {
  if (!checked.value.ok || refused.value !== undefined) return;
  const { network, program, ...rest } = props.link;
  const found = linkParts.value;
  emit('save', {
    ...rest,
    destination: destination.value.trim(),
    asText: asText.value.filter((piece) => destination.value.includes(piece)),
    ...(found.network && { network: found.network.id }),
    ...(found.program
      ? { program: found.program.id }
      : found.network && found.network.id === network && program
        ? { program }
        : {}),
  });
};
</script>

<template>
  <route-section
    :label="link.archived ? 'Destination, not used while archived' : 'Destination'"
    filled
    editable
    :editing="editing"
    :problem="problem"
    @edit="emit('edit')"
    @save="save"
    @cancel="emit('cancel')"
  >
    <link-parts-text :link-parts="linkParts" />
    <stands-on
      v-if="firstDrawn && isRead && !link.archived"
      :key="link.id"
      :links="[link.id]"
      before="nothing"
    />
    <template #editor>
      <destination-fields
        v-model="destination"
        :link-parts="linkParts"
        :strange="strange"
        @as-text="asText.push($event)"
      />
      <stands-on :key="link.id" :links="[link.id]" before="change" />
    </template>
  </route-section>
</template>
