<script setup lang="ts">
import { useCatalogue } from '../data/catalogue.ts';
import { useLinkFacts } from '../links/linkRows.ts';
import { count, perClick } from '../theme/formats.ts';
import type { OpenArticle } from './articles.ts';
import { useArticles } from './articles.ts';

/** The articles that are open, each with how much was found and what the best of it earns. */
defineProps<{ list: readonly OpenArticle[] }>();
const catalogue = useCatalogue();
const articles = useArticles();
const { epc } = useLinkFacts();
const title = ({ file, seen }: OpenArticle) => (file.seen?.isExport ? seen.title || 'An article' : file.name);
/** What a visitor of the best link pays that is put in where nothing is earned by now; several currencies are told each. */
const worth = ({ seen }: OpenArticle): string => {
  const best = new Map<string, number>();
  for (const { kind, edits, link: id } of seen.finds) {
    const link = catalogue.link(id);
    if (!link || edits.length === 0 || (kind !== 'shop' && kind !== 'keyword')) continue;
    const earned = epc(link);
    if ('why' in earned) continue;
    best.set(earned.currency, Math.max(earned.minor, best.get(earned.currency) ?? 0));
  }
  return [...best].map(([currency, minor]) => perClick(minor, currency)).join(' · ');
};
</script>

<template>
  <small-table class="files" aria-label="Articles">
    <thead>
      <tr>
        <th scope="col">Article</th>
        <th scope="col" class="number">Words</th>
        <th scope="col" class="number">Finds</th>
        <th scope="col" class="number">Best of them, a visitor</th>
        <th scope="col" class="number">Accepted</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="own in list" :key="`${own.file.id} ${own.index}`">
        <td>
          <router-link :to="{ name: 'articles', params: { file: own.file.id, index: String(own.index) } }">{{
            title(own)
          }}</router-link>
          <span v-if="!own.file.seen?.isExport && own.seen.title !== ''" class="quiet">
            {{ own.seen.title }}</span
          >
        </td>
        <td class="number">{{ count(own.seen.words) }}</td>
        <td class="number">{{ own.seen.finds.length === 0 ? 'none' : count(own.seen.finds.length) }}</td>
        <td class="number">{{ worth(own) }}</td>
        <td class="number">{{ count(articles.acceptedOf(own).length) }}</td>
      </tr>
    </tbody>
  </small-table>
</template>

<style scoped>
.files {
  margin-top: 16px;
}
.files a {
  color: var(--fern);
}
.number {
  text-align: end;
  font-variant-numeric: tabular-nums;
}
</style>
