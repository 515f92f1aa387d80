<script setup lang="ts">
import { computed } from 'vue';
import { touchedLinks } from '#core/anatomy';
import type { Grammar, Network } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import RolePicker from '../look/RolePicker.vue';
import { roleWords } from '../look/roleWords.ts';
import { useTeaching } from './teach.ts';

/** How a network writes its links, in its versions; each role can be corrected, and an older version taken again. */
const props = defineProps<{ network: Network }>();
const catalogue = useCatalogue();
const { saveGrammar, teach } = useTeaching();
const earlier = computed(() =>
  (props.network.earlier ?? []).map((grammar) => ({
    grammar,
    touches: touchedLinks(props.network, { ...props.network, grammar }, catalogue.links).length,
    words: grammar.parameters.map((p) => `${p.name}: ${roleWords[p.role].toLowerCase()}`).join(', '),
  })),
);
const takeAgain = (grammar: Grammar) =>
  saveGrammar(props.network, {
    ...props.network,
    grammar: { ...grammar, version: props.network.grammar.version + 1 },
    earlier: [props.network.grammar, ...(props.network.earlier ?? [])].slice(0, 20),
  });
</script>

<template>
  <p>
    <code>{{ network.grammar.hosts.join(', ') || 'No host yet' }}</code>
    <code>{{ network.grammar.path }}</code>
  </p>
  <table v-if="network.grammar.parameters.length > 0">
    <thead>
      <tr>
        <th scope="col">Parameter</th>
        <th scope="col">Is the</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="parameter in network.grammar.parameters" :key="parameter.name">
        <td class="mono">{{ parameter.name }}</td>
        <td>
          <role-picker
            :name="parameter.name"
            :role="parameter.role"
            reason="As this network’s grammar has it."
            @choose="teach(network, parameter.name, $event)"
          />
        </td>
      </tr>
    </tbody>
  </table>
  <details v-if="earlier.length > 0">
    <summary class="text-link">Earlier versions</summary>
    <ul>
      <li v-for="{ grammar, touches, words } in earlier" :key="grammar.version">
        <strong>{{ grammar.version }}</strong> <span>{{ words }}</span>
        <button class="text-link" type="button" @click="takeAgain(grammar)">Take it again</button>
        <span class="quiet">{{ touches }} links would be read otherwise</span>
      </li>
    </ul>
  </details>
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
