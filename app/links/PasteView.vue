<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import type { LinkParts } from '#core/link-parts';
import {
  compareSamples,
  linkFormatOf,
  proposeTitle,
  readLink,
  shopOf,
  slotsOf,
  unknownTag,
} from '#core/link-parts';
import type { Network, Role } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId, newSecret } from '../data/random.ts';
import { useNotice } from '../shell/notice.ts';
import { usePaste } from '../shell/paste.ts';
import { useTeaching } from '../programs/teach.ts';
import RolePicker from '../theme/RolePicker.vue';
import { newLinkRecords } from './makeLink.ts';
import { takenPaths } from './taken.ts';

const catalogue = useCatalogue();
const paste = usePaste();
const notice = useNotice();
const router = useRouter();
const { teach } = useTeaching();
const text = ref(paste.text);
/** Corrected roles of networks nobody has taught yet, by host and parameter. */
const corrected = ref(new Map<string, Role>());
const names = ref<Record<string, string>>({});

watch(
  () => paste.text,
  (pasted) => {
    if (pasted.trim() !== '') text.value = pasted;
  },
);
const lines = computed(() =>
  text.value
    .split('\n')
    .map((line) => line.trim())
    .filter((line) => line !== ''),
);
const bad = computed(() => lines.value.filter((line) => !/^https?:\/\/[^/?#\s]+\S*$/i.test(line)));
const anatomies = computed(() =>
  lines.value
    .filter((line) => !bad.value.includes(line))
    .map((line) => readLink(line, catalogue.networks, catalogue.programs)),
);

interface Group {
  readonly key: string;
  readonly title: string;
  readonly network: Network | undefined;
  /** True for a network that is known but not in the register yet; it is added with its first link. */
  readonly ships: boolean;
  readonly links: readonly LinkParts[];
  readonly parameters: readonly { name: string; role: Role; reason: string; values: readonly string[] }[];
}
const groups = computed((): Group[] => {
  const byKey = new Map<string, LinkParts[]>();
  for (const linkParts of anatomies.value) {
    const key = linkParts.network?.id ?? linkParts.known?.name ?? linkParts.host;
    byKey.set(key, [...(byKey.get(key) ?? []), linkParts]);
  }
  return [...byKey].map(([key, links]): Group => {
    const [first] = links;
    const network = first?.network;
    const ships = network === undefined && first?.known !== undefined;
    const compared = compareSamples(links.map((a) => a.link));
    const parameters = compared.map(({ name, role, reason, values }) => {
      const pair = links.flatMap((a) => a.pairs).find((p) => p.name === name);
      if (network ?? ships) return { name, role: pair?.role ?? role, reason: pair?.reason ?? reason, values };
      const own = corrected.value.get(`${key} ${name}`);
      if (own) return { name, role: own, reason: 'You said so.', values };
      // One link alone cannot be compared; its names and values tell what they can.
      return links.length > 1
        ? { name, role, reason, values }
        : { name, role: pair?.role ?? role, reason: pair?.reason ?? reason, values };
    });
    return { key, title: network?.name ?? first?.known?.name ?? key, network, ships, links, parameters };
  });
});
const correct = async (group: Group, name: string, role: Role) => {
  if (group.network) await teach(group.network, name, role);
  else corrected.value.set(`${group.key} ${name}`, role);
};
const learn = async (group: Group) => {
  const roles = new Map(group.parameters.map((p) => [p.name, p.role]));
  const linkFormat = linkFormatOf(
    group.links.map((a) => a.link),
    roles,
  );
  const name = (names.value[group.key] ?? '').trim() || shopOf(group.key);
  const network: Network = {
    id: newId('net'),
    name,
    currency: catalogue.settings.currency,
    zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
    linkFormat,
    slots: slotsOf(linkFormat),
    postback: {
      key: newSecret(),
      pixelKey: newSecret(),
      placeholders: {},
      fields: {},
      statuses: {},
      amounts: 'replace',
    },
  };
  await catalogue.saveRecord('network', network);
  notice.say(`${name} is learnt. Its links are recognised from now on.`, () => void catalogue.undo());
};
const tagProblem = (linkParts: LinkParts) => {
  const found = unknownTag(linkParts.link, catalogue.networks, catalogue.programs, catalogue.accounts);
  return found ? `${found.tag} is not in the register: it will stay here` : '';
};
const make = async () => {
  const [domain] = catalogue.domains;
  if (!domain) {
    await router.push({ name: 'setup', hash: '#domains' });
    return;
  }
  const taken = takenPaths(catalogue.links, domain);
  const made: ReturnType<typeof newLinkRecords>[] = [];
  const joined = new Set<string>();
  for (const linkParts of anatomies.value) {
    const { known } = linkParts;
    // A network that ships is joined once, by the first of its links; the others are read again against it.
    if (known && joined.has(known.name)) {
      const networks = [
        ...catalogue.networks,
        ...made.flatMap((m) => m.changes.flatMap((c) => (c.kind === 'network' ? [c.value as Network] : []))),
      ]; // a change of a network holds one
      made.push(
        newLinkRecords({ linkParts: readLink(linkParts.link, networks, catalogue.programs) }, domain, taken),
      );
    } else made.push(newLinkRecords({ linkParts }, domain, taken));
    if (known) joined.add(known.name);
  }
  // The first tag of a network is taken as one's own once, not by each of its links.
  const tagged = new Set<string>();
  const changes = made
    .flatMap((m) => m.changes)
    .filter((change) => {
      if (change.kind !== 'account') return true;
      const { network } = change.value as unknown as { network: string }; // a change of an account holds one
      const first = !tagged.has(network);
      tagged.add(network);
      return first;
    });
  await catalogue.save(...changes);
  paste.text = '';
  text.value = '';
  await router.push({ name: 'links' });
  notice.say(`${made.length} links are made.`, () => void catalogue.undo());
};
</script>

<template>
  <div class="paste">
    <header>
      <h1>Paste</h1>
      <span class="quiet">{{ anatomies.length }} {{ anatomies.length === 1 ? 'link' : 'links' }}</span>
      <v-btn v-if="anatomies.length > 0" color="primary" class="make" @click="make">
        Make {{ anatomies.length }} {{ anatomies.length === 1 ? 'link' : 'links' }}
      </v-btn>
    </header>
    <textarea
      v-model="text"
      class="mono"
      :rows="Math.min(8, Math.max(3, lines.length))"
      aria-label="Links, one a line"
      placeholder="Tracking links, one a line"
      spellcheck="false"
      wrap="off"
    />
    <p v-for="line in bad" :key="line" class="bad">
      <code>{{ line.slice(0, 80) }}</code> is no address. It begins with http:// or https:// and has no
      spaces.
    </p>
    <section v-for="group in groups" :key="group.key">
      <h2>
        {{ group.title }}
        <span class="quiet count"
          >{{ group.links.length }} {{ group.links.length === 1 ? 'link' : 'links'
          }}{{
            group.network
              ? `, link format version ${group.network.linkFormat.version}`
              : group.ships
                ? ', joined with the first link'
                : ', no network of yours'
          }}</span
        >
      </h2>
      <table>
        <thead>
          <tr>
            <th scope="col">Parameter</th>
            <th scope="col">Is the</th>
            <th scope="col">Why</th>
            <th scope="col">Values</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in group.parameters" :key="p.name">
            <td class="mono">{{ p.name }}</td>
            <td>
              <role-picker
                :name="p.name"
                :role="p.role"
                :reason="p.reason"
                @choose="correct(group, p.name, $event)"
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
      </table>
      <form v-if="!group.network && !group.ships" class="learn" @submit.prevent="learn(group)">
        <v-text-field
          v-model="names[group.key]"
          label="Name of the network"
          :placeholder="shopOf(group.key)"
        />
        <v-btn type="submit" class="quiet-button" size="default">Learn this network</v-btn>
        <span class="quiet">
          {{
            group.links.length > 1
              ? 'Then its links are recognised at once.'
              : 'Paste a second of its links to tell account from program by comparison.'
          }}
        </span>
      </form>
      <ul>
        <li v-for="(linkParts, i) in group.links" :key="i">
          <span class="title">{{ proposeTitle(linkParts) }}</span>
          <code class="quiet">{{ linkParts.page ?? linkParts.link }}</code>
          <span v-if="tagProblem(linkParts)" class="bad">{{ tagProblem(linkParts) }}</span>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.paste {
  flex: 1;
  overflow: auto;
  padding: 15px 20px 30px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  margin-bottom: 10px;
}
.make {
  margin-left: auto;
}
textarea {
  width: 100%;
  box-sizing: border-box;
  padding: 9px 12px;
  font-size: 12px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
  resize: vertical;
}
section {
  margin-top: 18px;
}
.count {
  font-family: 'Figtree Variable', sans-serif;
  font-size: 14px;
}
table {
  width: 100%;
  margin: 6px 0;
}
td,
th {
  padding: 4px 14px 4px 0;
  border-bottom: 1px solid var(--line);
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
  gap: 10px;
  margin: 8px 0;
  max-width: 760px;
}
.learn > :first-child {
  max-width: 260px;
}
ul {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
li {
  display: flex;
  gap: 12px;
  padding: 3px 0;
}
li code {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.title {
  flex: none;
  max-width: 240px;
  font-weight: 500;
}
.bad {
  margin: 4px 0;
  color: var(--copper);
}
</style>
