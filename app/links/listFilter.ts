import { computed, watch } from 'vue';
import type { LocationQuery } from 'vue-router';
import { useRoute, useRouter } from 'vue-router';
import { searchLinks } from '#core/link-parts';
import type { Link, LinkFilter } from '#core/catalogue';
import { fits } from '#core/catalogue';
import { openingOf } from '#core/hop';
import { useCatalogue } from '../data/catalogue.ts';

const names = ['words', 'domain', 'program', 'group', 'tag', 'state'] as const;
const text = (query: LocationQuery, name: string): string => {
  const value = query[name];
  return typeof value === 'string' ? value : '';
};

/** The filter of the list as it stands in the address, so that it can be kept, and the links it lets through. */
export const useListFilter = () => {
  const route = useRoute();
  const router = useRouter();
  const catalogue = useCatalogue();

  const filter = computed((): LinkFilter => {
    const queryValue = (name: (typeof names)[number]) => text(route.query, name);
    return {
      words: queryValue('words'),
      domain: queryValue('domain'),
      program: queryValue('program'),
      group: queryValue('group'),
      tag: queryValue('tag'),
      state: queryValue('state'),
    };
  });
  const active = computed(() => names.some((name) => filter.value[name] !== ''));
  const set = (more: Partial<LinkFilter>): void => {
    const next = { ...filter.value, ...more };
    const query = Object.fromEntries(
      names.flatMap((name) => (next[name] === '' ? [] : [[name, next[name]]])),
    );
    void router.replace({ ...route, query } as Parameters<typeof router.replace>[0]); // the same place, filtered
  };
  const sorted = computed(() =>
    catalogue.links.toSorted((a, b) => b.createdAt - a.createdAt || (a.slug < b.slug ? -1 : 1)),
  );
  const shown = computed(() => {
    const now = Date.now();
    const opening = (link: Link): string => {
      const domain = catalogue.domain(link.domain);
      return (domain && openingOf(link, domain, now)?.state) ?? '';
    };
    const through = sorted.value.filter((link) => fits(link, filter.value, catalogue.where, opening));
    return filter.value.words.trim() === '' ? through : searchLinks(filter.value.words, through);
  });
  // What links are searched in is made while nobody waits for it.
  watch(
    () => catalogue.links,
    (links) => requestIdleCallback(() => searchLinks('', links)),
    { immediate: true },
  );
  const groups = computed(() => [...new Set(catalogue.links.flatMap((link) => link.group ?? []))].sort());
  const tags = computed(() => [...new Set(catalogue.links.flatMap((link) => link.tags ?? []))].sort());
  return { active, filter, groups, set, shown, tags };
};
