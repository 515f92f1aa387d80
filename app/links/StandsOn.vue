<script setup lang="ts">
import { computed } from 'vue';
import type { UsedPage } from '#core/where-used';
import { useCatalogue } from '../data/catalogue.ts';
import { useJournal } from '../data/journal.ts';
import { useArticleReading } from '../place/articleReading.ts';
import { mendWords } from '../place/findWords.ts';
import { useNewest } from '../place/newest.ts';
import { count } from '../theme/formats.ts';

/**
 * Where links stand, as far as is known: everywhere before they are archived or their destination changed, or only where something needs a
 * hand. Of places that hold the short address nothing has to be done when its destination changes.
 */
const props = defineProps<{ links: readonly string[]; before: 'archive' | 'change' | 'nothing' }>();
const shown = computed(() => new Set(props.links));
const catalogue = useCatalogue();
const journal = useJournal();
const reading = useArticleReading();
interface Place {
  readonly key: string;
  readonly name: string;
  /** The slug of the link that stands there, where several are asked for; empty otherwise. */
  readonly slug: string;
  readonly follows: boolean;
  readonly visitors: number;
  /** What is to be mended there; empty for nothing. */
  readonly mend: string;
}
const slugOf = (link: string | undefined): string =>
  props.links.length > 1 && link !== undefined ? (catalogue.link(link)?.slug ?? '') : '';
/** More than these are told by their number. */
const most = 5;
const placesOn = ({ name, siteOnly, links, stale }: UsedPage): Place[] => {
  const bare = name.replace(/^https?:\/\//, '').replace(/\/$/, '');
  const place = siteOnly ? `somewhere on ${bare}` : bare;
  return [
    ...links
      .filter(({ link, gone }) => link !== undefined && shown.value.has(link) && !gone)
      .map(({ link, address, follows, visitors, mend }) => ({
        key: `${name} ${address}`,
        name: place,
        slug: slugOf(link),
        follows,
        visitors,
        mend: mend ? `${mendWords(mend.kind)}: ${mend.says}` : '',
      })),
    // What is said of it beside is no place of it.
    ...(props.before === 'nothing' ? stale : [])
      .filter(({ link }) => link !== undefined && shown.value.has(link))
      .map(({ link, kind, says }) => ({
        key: `${name} ${says}`,
        name: place,
        slug: slugOf(link),
        follows: true,
        visitors: 0,
        mend: `${mendWords(kind)}: ${says}`,
      })),
  ];
};
const one = computed(() => (props.links.length === 1 ? catalogue.link(props.links[0] ?? '') : undefined));
const { found, loaded } = useNewest<readonly Place[]>(
  // Who comes meanwhile is told when it is opened next.
  () => [journal.arriving, reading.news, catalogue.pages],
  async () => (await reading.whereUsed()).flatMap(placesOn),
  [],
);
const places = computed(() => found.value.filter(({ mend }) => props.before !== 'nothing' || mend !== ''));
const placeWords = (n: number): string => `${count(n)} ${n === 1 ? 'place' : 'places'}`;
const title = computed(() => {
  const n = places.value.length;
  const [it, It, stand, are, them, address] =
    props.links.length === 1
      ? ['it', 'It', 'stands', 'is', 'it', 'its short address']
      : ['they', 'They', 'stand', 'are', 'them', 'their short addresses'];
  if (props.before === 'nothing')
    return `${placeWords(n)} where ${it} ${stand} ${n === 1 ? 'needs' : 'need'} a hand:`;
  if (n === 0) return `${It} ${are} known to stand on no page. Mails, posts and print may have ${them}.`;
  const follow = places.value.filter(({ follows }) => follows).length;
  const chosen = props.links.length === 1 ? 'answers as you choose here' : 'answer that they are gone';
  const then =
    props.before === 'archive' ? `which then ${chosen}` : `which ${one.value ? 'follows' : 'follow'}`;
  const parts = [
    ...(follow > 0 ? [`${count(follow)} by ${address}, ${then}`] : []),
    ...(follow < n ? [`${count(n - follow)} to be changed by hand`] : []),
  ];
  return `${It} ${stand} in ${placeWords(n)}: ${parts.join('; ')}.`;
});
const visitorWords = (n: number): string =>
  n === 0 ? '' : `${count(n)} ${n === 1 ? 'visitor' : 'visitors'}`;
</script>

<template>
  <div
    v-if="loaded && (before !== 'nothing' || places.length > 0)"
    class="stands"
    role="group"
    aria-label="Where it stands"
  >
    <p :class="{ bad: before === 'nothing' }">{{ title }}</p>
    <ul v-if="places.length > 0">
      <li v-for="place in places.slice(0, most)" :key="place.key">
        <span class="mono">{{ place.name }}</span>
        <strong v-if="place.slug" class="mono"> {{ place.slug }}</strong>
        <span v-if="place.mend" class="bad"> {{ place.mend }}</span>
        <span class="quiet"> {{ visitorWords(place.visitors) }}</span>
      </li>
    </ul>
    <router-link v-if="places.length > 0" :to="{ name: 'pages', query: { by: 'link', find: one?.slug } }">{{
      places.length > most ? `All ${count(places.length)}` : 'In Pages'
    }}</router-link>
  </div>
</template>

<style scoped>
.stands {
  margin: 8px 0;
  padding: 8px 12px;
  font-size: 13px;
  background: var(--sunk);
  border-radius: var(--leaf-card);
}
p {
  margin: 0;
}
ul {
  margin: 2px 0 4px;
  padding: 0;
  list-style: none;
}
li {
  padding: 2px 0;
  overflow-wrap: anywhere;
}
.bad {
  color: var(--copper);
}
a {
  color: var(--fern);
}
</style>
