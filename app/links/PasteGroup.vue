<script setup lang="ts">
import { computed, ref } from 'vue';
import type { Role } from '#core/catalogue';
import type { LinkParts } from '#core/link-parts';
import { compareSamples, linkFormatOf, placeTitle, shopOf, slotsOf } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { newNetwork } from '../programs/newNetwork.ts';
import { useTeaching } from '../programs/teach.ts';
import { useNotice } from '../shell/notice.ts';
import RolePicker from '../theme/RolePicker.vue';
import { count } from '../theme/formats.ts';

/** The pasted links of one network, or of one host nobody registered: what their parts are, to be corrected and learnt. */
const props = defineProps<{ title: string; links: readonly LinkParts[] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const { teach } = useTeaching();
/** More of them side by side tell no more. */
const mostCompared = 30;
const name = ref('');
/** Corrected roles of a network nobody has taught yet. */
const corrected = ref(new Map<string, Role>());

const network = computed(() => props.links[0]?.network);
/** A network that is known but not in the register yet; it is added with its first link. */
const ships = computed(() => network.value === undefined && props.links[0]?.known !== undefined);
const compared = computed(() => props.links.slice(0, mostCompared));
const parameters = computed(() =>
  compareSamples(compared.value.map(({ link }) => link)).map((found) => {
    const { name: part, values } = found;
    const own = corrected.value.get(part);
    if (own && !network.value) return { name: part, role: own, open: false, reason: 'You said so.', values };
    // What the network's format says is known; one link alone cannot be compared.
    const isKnown = network.value !== undefined || ships.value || props.links.length === 1;
    const pair = isKnown
      ? compared.value.flatMap(({ pairs }) => pairs).find((p) => p.name === part)
      : undefined;
    const { role, open = false, reason } = pair ?? found;
    return { name: part, role, open, reason, values };
  }),
);
const correct = async (part: string, role: Role) => {
  if (network.value) await teach(network.value, part, role);
  else corrected.value.set(part, role);
};
const learn = async () => {
  const roles = new Map(parameters.value.map((p) => [p.name, p.role]));
  const linkFormat = linkFormatOf(
    props.links.map(({ link }) => link),
    roles,
  );
  const learnt = newNetwork({
    name: name.value.trim() || shopOf(props.title),
    currency: catalogue.settings.currency,
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    linkFormat,
    slots: slotsOf(linkFormat),
  });
  await catalogue.saveRecord('network', learnt);
  notice.say(`${learnt.name} is learnt. Its links are recognised from now on.`, () => void catalogue.undo());
};
</script>

<template>
  <section>
    <h2>
      {{ title }}
      <span class="quiet count"
        >{{ count(links.length) }} {{ links.length === 1 ? 'link' : 'links'
        }}{{
          network
            ? `, link format version ${network.linkFormat.version}`
            : ships
              ? ', joined with the first link'
              : ', no network of yours'
        }}</span
      >
    </h2>
    <v-table v-if="parameters.length > 0" density="compact">
      <thead>
        <tr>
          <th scope="col">Part</th>
          <th scope="col">Is the</th>
          <th scope="col">Why</th>
          <th scope="col">Values</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in parameters" :key="p.name">
          <td :class="{ mono: placeTitle(p.name) === p.name }">{{ placeTitle(p.name) }}</td>
          <td>
            <role-picker
              :name="placeTitle(p.name)"
              :role="p.role"
              :open="p.open"
              :reason="p.reason"
              @choose="correct(p.name, $event)"
            />
          </td>
          <td class="quiet">{{ p.reason }}</td>
          <td class="mono values">
            {{
              p.values
                .map((v) => (v === '' ? '(empty)' : v))
                .slice(0, 4)
                .join('  ')
            }}
          </td>
        </tr>
      </tbody>
    </v-table>
    <form v-if="!network && !ships" class="learn" @submit.prevent="learn">
      <v-text-field v-model="name" label="Name of the network" :placeholder="shopOf(title)" />
      <v-btn type="submit" class="quiet-button" size="default">Learn this network</v-btn>
      <span class="quiet">
        {{
          links.length > 1
            ? 'Then its links are recognised at once.'
            : 'Paste a second of its links to tell account from program by comparison.'
        }}
      </span>
    </form>
  </section>
</template>

<style scoped>
section {
  margin-top: 18px;
}
.count {
  font-family: 'Figtree Variable', sans-serif;
  font-size: 14px;
}
.values {
  max-width: 420px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.learn {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 10px;
  margin: 8px 0;
  max-width: 760px;
}
.learn > :first-child {
  flex: 1 1 200px;
  max-width: 260px;
}
@media (max-width: 700px) {
  .v-table th,
  .v-table td {
    padding: 4px 6px;
  }
}
</style>
