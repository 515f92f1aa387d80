<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed } from 'vue';
import type { LinkParts } from '#core/link-parts';
import { labelProblems, placeTitle } from '#core/link-parts';
import type { Role } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import RolePicker from '../theme/RolePicker.vue';
import TokenField from './TokenField.vue';
import { roleWords } from '../theme/roleWords.ts';
import { useTeaching } from '../programs/teach.ts';

/** A destination, what each of its parameters is for, and what its sub-ID slots make of what is put into them. */
const destination = defineModel<string>({ required: true });
const props = defineProps<{ linkParts: LinkParts; strange: string | undefined }>();
const emit = defineEmits<{ asText: [piece: string] }>();
const catalogue = useCatalogue();
const landsWith = /[?&]from-click=/;
const { teach } = useTeaching();

const labels = computed(() =>
  Object.fromEntries(props.linkParts.pairs.filter((p) => p.role === 'slot').map((p) => [p.name, p.raw])),
);
const problems = computed(() => {
  const { network } = props.linkParts;
  return network
    ? labelProblems(
        network,
        labels.value,
        catalogue.accounts.filter((a) => a.network === network.id),
      )
    : [];
});
const slotOf = (name: string) => props.linkParts.network?.slots.find((slot) => slot.name === name);
/** A page of the person's own is to know which click led to it; a network's link has slots for that. */
const mayLand = computed(
  () =>
    !props.linkParts.network &&
    /^https?:\/\/[^/?#]/i.test(destination.value) &&
    !landsWith.test(destination.value),
);
const passOn = () => {
  const [, before = '', fragment = ''] = /^([^#]*)(.*)$/s.exec(destination.value.trim()) ?? [];
  const given = /[?&]from=/.test(before) ? '' : '&from={source}';
  destination.value = `${before}${before.includes('?') ? '&' : '?'}from-click={click}${given}${fragment}`;
};
const choose = (name: string, role: Role) => {
  const { network } = props.linkParts;
  if (network) void teach(network, name, role);
};
</script>

<template>
  <token-field v-model="destination" label="Destination" :rows="4" />
  <v-btn v-if="strange" class="quiet-button" @click="emit('asText', strange)"
    >Send {{ strange }} as it stands</v-btn
  >
  <p v-if="mayLand" class="note quiet">
    A page of yours with links of its own?
    <text-link @click="passOn">Pass click and source on to it</text-link>
  </p>
  <small-table v-if="linkParts.pairs.length > 0" class="pairs">
    <caption class="visually-hidden">
      Parameters and what each is for
    </caption>
    <tbody>
      <tr v-for="(pair, i) in linkParts.pairs" :key="i" :title="pair.reason">
        <td class="mono">{{ placeTitle(pair.name) }}</td>
        <td class="mono value">
          {{ pair.decoded === '' ? '(empty)' : pair.decoded }}
          <span v-if="slotOf(pair.name)?.merchant" class="tile outlined"
            >seen by the merchant<hint>The merchant can read it too</hint></span
          >
        </td>
        <td class="role">
          <role-picker
            v-if="linkParts.network"
            :name="placeTitle(pair.name)"
            :role="pair.role"
            :open="pair.open ?? false"
            :reason="pair.reason"
            @choose="choose(pair.name, $event)"
          />
          <span v-else class="quiet">{{ roleWords[pair.role] }}</span>
        </td>
      </tr>
    </tbody>
  </small-table>
  <p v-for="problem in problems" :key="problem.slot + problem.message" class="note wrong" role="status">
    {{ problem.message }}
  </p>
  <p class="quiet note">Every byte but a token is sent as it stands here.</p>
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
.wrong {
  color: var(--copper);
}
</style>
