<script setup lang="ts">
import type { Link } from '#core/catalogue';
import type { OneOfSeveral, SeveralForm } from '#core/placing';
import { clipOfSeveral, severalForms } from '#core/placing';
import { useCatalogue } from '../../data/catalogue.ts';
import { useNotice } from '../../shell/notice.ts';
import { useLinkFacts } from '../linkRows.ts';
import { usePlacing } from './placing.ts';

/** Picked links as a list or a table; what may not be placed is left out, and said. */
const props = defineProps<{ links: readonly Link[] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const facts = useLinkFacts();
const { placingOf } = usePlacing();
const words: Readonly<Record<SeveralForm, string>> = {
  list: 'HTML list',
  table: 'HTML table',
  'markdown list': 'Markdown list',
  'markdown table': 'Markdown table',
  addresses: 'addresses',
};
const copy = async (form: SeveralForm): Promise<void> => {
  const several: OneOfSeveral[] = [];
  let leftOut = '';
  for (const link of props.links) {
    const domain = catalogue.domain(link.domain);
    if (!domain) continue;
    const placing = placingOf(link, domain);
    if ('refused' in placing) leftOut ||= `${link.slug} is left out: ${placing.refused}`;
    else several.push({ link: placing.link, from: facts.goesTo(link) });
  }
  const left = props.links.length - several.length;
  const more = left > 1 ? ` ${left} are left out; of the first: ${leftOut}` : leftOut;
  if (several.length === 0) notice.say(`Nothing is copied. ${more}`);
  else
    await notice.copy(
      clipOfSeveral(form, several),
      `${several.length} ${several.length === 1 ? 'link is' : 'links are'} copied. ${more}`.trim(),
    );
};
</script>

<template>
  <p class="several">
    Copy as
    <text-link v-for="form in severalForms" :key="form" @click="copy(form)">{{ words[form] }}</text-link>
  </p>
</template>

<style scoped>
.several {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 4px 0 0;
  font-size: 13px;
}
</style>
