<script setup lang="ts">
import { computed, defineAsyncComponent, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import type { Domain, Link } from '#core/catalogue';
import { freeSlug, leaningProblem } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import { getAbout } from '../data/server.ts';
import { useNotice } from '../shell/notice.ts';
import { shortUrl } from './address.ts';
import LinkInArticles from './LinkInArticles.vue';
import { takenPaths } from './taken.ts';
import { qrSvg } from './qr.ts';

const StandsOn = defineAsyncComponent(() => import('./StandsOn.vue'));

/** What else can be done with a link: trace it, look at its history, test it on a phone, copy it, archive it. */
const props = defineProps<{ link: Link; domain: Domain }>();
const emit = defineEmits<{ done: []; removed: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const router = useRouter();
const phone = shallowRef<{ address: string; picture: string } | undefined>();
const archiving = ref(false);
const inArticles = ref(false);
/** The links it can answer as, by their slugs. */
const others = computed(() =>
  catalogue.links
    .filter((link) => link.id !== props.link.id && !link.archived)
    .map(({ id, slug, title }) => ({ value: id, title: `as ${slug}`, props: { subtitle: title } }))
    .sort((a, b) => a.title.localeCompare(b.title)),
);
const to = ref<string | null>(null);

const star = () => {
  const { starred, ...rest } = props.link;
  return catalogue.saveRecord('link', starred ? rest : { ...rest, starred: true });
};
const duplicate = async () => {
  const taken = takenPaths(catalogue.links, props.domain);
  const { archived: _1, starred: _2, ...rest } = props.link;
  const copy: Link = {
    ...rest,
    id: newId('lnk'),
    slug: freeSlug(props.link.slug, (slug) => taken.has(props.domain.prefix + slug)),
    aliases: [],
    createdAt: Date.now(),
  };
  const step = await catalogue.saveRecord('link', copy);
  emit('done');
  await router.push({ name: 'links', params: { link: copy.id } });
  notice.did(`${copy.slug} is a copy of ${props.link.slug}.`, step);
};
const archive = async () => {
  const target = catalogue.link(to.value ?? undefined);
  const step = await catalogue.saveRecord('link', {
    ...props.link,
    archived: { at: Date.now(), ...(target && { to: target.id }) },
  });
  archiving.value = false;
  emit('done');
  notice.did(
    target
      ? `${props.link.slug} is archived and answers as ${target.slug}.`
      : `${props.link.slug} is archived and answers “gone”.`,
    step,
  );
};
const bringBack = () => {
  const { archived: _, ...rest } = props.link;
  return catalogue.saveRecord('link', rest);
};
const remove = async () => {
  const { links, programs, accounts } = catalogue;
  const leans = leaningProblem('link', props.link.id, { links, programs, accounts });
  if (leans !== undefined) {
    notice.say(`${props.link.slug} is not removed. ${leans}`);
    return;
  }
  const step = await catalogue.save({ kind: 'link', value: null, id: props.link.id });
  emit('removed');
  notice.did(`${props.link.slug} is removed and no longer answers.`, step);
};
const showPhone = async () => {
  try {
    const { testToken } = await getAbout();
    const address = `${shortUrl(props.domain, props.link)}?test=${testToken}`;
    phone.value = { address, picture: await qrSvg(address) };
  } catch {
    notice.say('The server did not answer, so there is no address to test by now.');
  }
};
</script>

<template>
  <div class="more" role="group" aria-label="More">
    <div class="actions">
      <text-link @click="router.push({ name: 'trace', query: { link: link.id } })"> Trace </text-link>
      <text-link @click="showPhone">Test on a phone</text-link>
      <text-link @click="router.push({ name: 'history', params: { link: link.id } })"> History </text-link>
      <text-link :aria-expanded="inArticles" @click="inArticles = !inArticles">In articles</text-link>
      <text-link @click="star">
        {{ link.starred ? 'Take the star off' : 'Star' }}
      </text-link>
      <text-link @click="duplicate">Duplicate</text-link>
      <text-link v-if="link.archived" @click="bringBack">Bring back</text-link>
      <text-link v-else @click="archiving = !archiving">Archive</text-link>
      <text-link class="remove" @click="remove">Remove this link</text-link>
    </div>
    <link-in-articles v-if="inArticles" :link="link" @done="inArticles = false" />
    <stands-on v-if="archiving" :key="link.id" :links="[link.id]" before="archive" />
    <form v-if="archiving" class="archive" @submit.prevent="archive">
      <v-autocomplete
        v-model="to"
        :items="others"
        label="Its addresses then answer"
        placeholder="gone (410)"
        persistent-placeholder
        clearable
      />
      <v-btn type="submit" color="primary">Archive</v-btn>
    </form>
    <figure v-if="phone">
      <img :src="phone.picture" alt="QR code of the test address" width="132" height="132" />
      <figcaption>
        <code>{{ phone.address }}</code>
        <text-link @click="notice.copy(phone.address, 'The test address is copied.')"> Copy </text-link>
        <span class="quiet">Whoever opens it is not counted.</span>
      </figcaption>
    </figure>
  </div>
</template>

<style scoped>
.more {
  margin: 0 18px 10px;
  padding: 8px 12px;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.actions {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}
.remove {
  color: var(--copper);
}
.archive {
  display: flex;
  align-items: center;
  gap: 10px;
  margin-top: 12px;
}
figure {
  display: flex;
  gap: 12px;
  margin: 10px 0 2px;
}
figcaption {
  display: grid;
  gap: 4px;
  align-content: start;
  font-size: 13px;
}
figcaption code {
  font-size: 12px;
  overflow-wrap: anywhere;
}
</style>
