<script setup lang="ts">
import MoreText from '../theme/MoreText.vue';
import { computed } from 'vue';
import { placeTitle, touchedLinks } from '#core/link-parts';
import type { LinkFormat, Network } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import RolePicker from '../theme/RolePicker.vue';
import { roleWords } from '../theme/roleWords.ts';
import { useTeaching } from './teach.ts';

/** How a network writes its links, in its versions; each role can be corrected, and an older version taken again. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const { saveLinkFormat, teach } = useTeaching();
const earlier = computed(() =>
  (props.network.earlierLinkFormats ?? []).map((linkFormat) => ({
    linkFormat,
    touches: touchedLinks(props.network, { ...props.network, linkFormat }, catalogue.links).length,
    words: linkFormat.parameters
      .map((p) => `${placeTitle(p.name)}: ${roleWords[p.role].toLowerCase()}`)
      .join(', '),
  })),
);
const takeAgain = (linkFormat: LinkFormat) =>
  saveLinkFormat(props.network, {
    ...props.network,
    linkFormat: { ...linkFormat, version: props.network.linkFormat.version + 1 },
    earlierLinkFormats: [props.network.linkFormat, ...(props.network.earlierLinkFormats ?? [])].slice(0, 20),
  });
</script>

<template>
  <p>
    <code>{{ network.linkFormat.hosts.join(', ') || 'No host yet' }}</code>
    <code>{{ network.linkFormat.path }}</code>
  </p>
  <small-table v-if="network.linkFormat.parameters.length > 0">
    <thead>
      <tr>
        <th scope="col">Part</th>
        <th scope="col">Is the</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="parameter in network.linkFormat.parameters" :key="parameter.name">
        <td class="mono">{{ placeTitle(parameter.name) }}</td>
        <td>
          <role-picker
            :name="placeTitle(parameter.name)"
            :role="parameter.role"
            reason="As this network’s link format has it."
            @choose="teach(network, parameter.name, $event)"
          />
        </td>
      </tr>
    </tbody>
  </small-table>
  <more-text v-if="earlier.length > 0" summary="Earlier versions">
    <ul>
      <li v-for="{ linkFormat, touches, words } in earlier" :key="linkFormat.version">
        <strong>{{ linkFormat.version }}</strong> <span>{{ words }}</span>
        <text-link @click="takeAgain(linkFormat)">Take it again</text-link>
        <span class="quiet">{{ touches }} links would be read otherwise</span>
      </li>
    </ul>
  </more-text>
</template>

<style scoped>
td,
th {
  padding: 4px 14px 4px 0;
  border-bottom: 1px solid var(--line);
}
p {
  margin: 0 0 6px;
}
li {
  margin: 4px 0;
}
li > * {
  margin-right: 8px;
}
</style>
