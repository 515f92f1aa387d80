<script setup lang="ts">
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue';
import type { Kit } from '#core/catalogue';
import { checkRecord, firstProblem } from '#core/catalogue';
import { isSourceName } from '#core/hop';
import type { PostPlace } from '#core/placing';
import { disclosureOf, lettersOf, messageLength, postClip, postPlaces } from '#core/placing';
import { useCatalogue } from '../data/catalogue.ts';
import { saveFile } from '../data/saveFile.ts';
import { useNotice } from '../shell/notice.ts';
import { usePlacing } from '../links/copying/placing.ts';
import { count } from '../theme/formats.ts';
import PickFiles from '../theme/PickFiles.vue';
import { bytesOfPicture, ownPicture } from './ownPicture.ts';
import PreviewSeen from './PreviewSeen.vue';

/** A kit: its parts on one side, the post as it is copied for a place below. */
const props = defineProps<{ kit: Kit }>();
const emit = defineEmits<{ removed: [] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const { placingOf } = usePlacing();
const began = ref(catalogue.rowNow(props.kit.id));
const draft = ref<Kit>({ ...props.kit });
watch(
  () => props.kit,
  (kit) => {
    // What somebody else changed is shown, where nothing was typed here.
    if (!changed.value) draft.value = { ...kit };
  },
);
const changed = computed(() => JSON.stringify(draft.value) !== JSON.stringify(props.kit));
const places: readonly PostPlace[] = postPlaces;
const place = ref<string>(postPlaces[0].name);
const chosenPlace = computed(() => places.find(({ name }) => name === place.value) ?? postPlaces[0]);
const link = computed(() => catalogue.link(draft.value.link));
const placing = computed(() => {
  const domain = link.value && catalogue.domain(link.value.domain);
  if (!link.value || !domain) return { refused: 'Its link was removed. Choose another.' };
  if (link.value.archived) return { refused: `The link ${link.value.slug} is archived. Choose another.` };
  const { source } = draft.value;
  return placingOf(link.value, domain, isSourceName(source) ? source : '');
});
const refused = computed(() => {
  if ('refused' in placing.value) return placing.value.refused;
  const social = placing.value.restrictions.find(({ what }) => what === 'social');
  return social && chosenPlace.value.social ? social.because : '';
});
const clip = computed(() =>
  'refused' in placing.value ? undefined : postClip(draft.value, placing.value.link),
);
/** How long it is there, and whether that is too long. */
const length = computed(() => {
  const text = clip.value?.plain ?? '';
  const { most, shown, name }: PostPlace = chosenPlace.value;
  if (name === 'text message') {
    const { units, parts, left } = messageLength(text);
    return {
      words: `${units} letters, sent as ${parts === 1 ? 'one message' : `${parts} messages`}; ${left} more fit`,
      over: false,
    };
  }
  const letters = lettersOf(text);
  const over = most !== undefined && letters > most;
  return {
    words: [
      `${count(letters)} of ${count(most ?? letters)} letters`,
      over ? `${count(letters - most)} too many` : '',
      shown !== undefined ? `the first ${shown} are seen at once` : '',
    ]
      .filter((text) => text !== '')
      .join(', '),
    over,
  };
});
const problem = computed(() => {
  const checked = checkRecord('kit', draft.value);
  return checked.ok ? '' : firstProblem(checked);
});
const picture = computed(() => catalogue.pictures.find(({ id }) => id === draft.value.picture));
const shown = shallowRef('');
watch(
  picture,
  (now) => {
    if (shown.value !== '') URL.revokeObjectURL(shown.value);
    shown.value = now ? URL.createObjectURL(new Blob([bytesOfPicture(now)], { type: 'image/jpeg' })) : '';
  },
  { immediate: true },
);
onUnmounted(() => shown.value !== '' && URL.revokeObjectURL(shown.value));
const links = computed(() =>
  catalogue.links
    .filter(({ archived }) => !archived)
    .map(({ id, title, slug }) => ({ value: id, title: `${title} (${slug})` })),
);
const save = async (): Promise<void> => {
  if (problem.value !== '' || !changed.value) return;
  const step = await catalogue.saveRecord('kit', { ...draft.value }, began.value);
  began.value = catalogue.rowNow(props.kit.id);
  notice.did(`${draft.value.name} is kept.`, step);
};
const takePicture = async (file: File | undefined) => {
  if (!file) return;
  try {
    const value = await ownPicture(file);
    const next = { ...draft.value, picture: value.id };
    const step = await catalogue.save(
      { kind: 'picture', value },
      { kind: 'kit', value: next, began: began.value },
    );
    began.value = catalogue.rowNow(props.kit.id);
    draft.value = next;
    notice.did('The picture is kept with the kit.', step);
  } catch (error) {
    notice.say(error instanceof Error ? error.message : String(error));
  }
};
const copy = async () => {
  if (!clip.value || refused.value !== '' || length.value.over) return;
  await notice.copy(clip.value, 'The post is copied, its link last.');
};
const savePicture = () => {
  if (!picture.value) return;
  const name = `${(link.value?.slug ?? 'post').slice(0, 60)}.jpg`;
  saveFile(name, 'image/jpeg', bytesOfPicture(picture.value));
};
const canShare = 'share' in navigator;
const share = async () => {
  if (!clip.value) return;
  const files = picture.value
    ? [new File([bytesOfPicture(picture.value)], 'picture.jpg', { type: 'image/jpeg' })]
    : [];
  const withFiles = files.length > 0 && navigator.canShare({ files }) ? { files } : {};
  // Whoever closes the sheet again has shared nothing.
  await navigator.share({ text: clip.value.plain, ...withFiles }).catch(() => undefined);
};
const remove = async () => {
  const step = await catalogue.save({ kind: 'kit', value: null, id: props.kit.id });
  notice.did(`${props.kit.name} is removed.`, step);
  emit('removed');
};
</script>

<template>
  <div class="pane">
    <section class="post" aria-label="The post">
      <div class="top">
        <v-select v-model="place" :items="places.map(({ name }) => name)" label="For a" />
        <v-btn color="primary" size="default" :disabled="!clip || refused !== '' || length.over" @click="copy"
          >Copy the post</v-btn
        >
        <v-btn v-if="picture" class="quiet-button" size="default" @click="savePicture"
          >Save the picture</v-btn
        >
        <v-btn v-if="canShare && refused === ''" class="quiet-button" size="default" @click="share"
          >Share…</v-btn
        >
      </div>
      <p v-if="refused !== ''" class="bad" role="alert">{{ refused }}</p>
      <template v-if="clip">
        <div class="drawn">
          <img v-if="shown !== ''" :src="shown" :alt="draft.alt || 'Your picture'" />
          <pre>{{ clip.plain }}</pre>
        </div>
        <p :class="length.over ? 'bad' : 'quiet'" role="status">{{ length.words }}.</p>
      </template>
    </section>
    <form @submit.prevent="save">
      <v-text-field v-model="draft.name" label="Name of the kit" />
      <v-autocomplete v-model="draft.link" :items="links" label="Link" />
      <v-text-field
        v-model="draft.source"
        label="Source"
        class="mono"
        placeholder="none"
        persistent-placeholder
      />
      <v-text-field
        v-model="draft.action"
        label="What to do"
        placeholder="Look before Thursday"
        class="wide"
      />
      <v-textarea v-model="draft.text" label="Text" rows="3" auto-grow class="wide" />
      <v-text-field v-model="draft.disclosure" label="Why the link is there" class="wide">
        <template #append-inner>
          <text-link
            v-for="size in ['short', 'usual'] as const"
            :key="size"
            class="size"
            @click="
              draft.disclosure = disclosureOf('post', size, 'refused' in placing ? '' : placing.disclosure)
            "
            >{{ size }}</text-link
          >
        </template>
      </v-text-field>
      <p class="wide line">
        <pick-files accept="image/*" in-line @files="takePicture($event[0])">{{
          picture ? 'Take another picture' : 'Take a picture of your own'
        }}</pick-files>
        <span class="quiet">Previews that are pulled through a link are often cut or missing.</span>
      </p>
      <v-text-field
        v-if="picture"
        v-model="draft.alt"
        label="What the picture shows, for who does not see it"
        class="wide"
      />
      <p v-if="problem !== ''" class="bad wide" role="alert">{{ problem }}</p>
      <div class="wide line">
        <v-btn type="submit" color="primary" :disabled="!changed || problem !== ''">Keep the kit</v-btn>
        <text-link @click="remove">Remove it</text-link>
      </div>
    </form>
    <preview-seen v-if="!('refused' in placing) && link" :address="placing.link.address" :link="link.id" />
  </div>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 18px;
  padding: 16px 22px 24px;
}
.top {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: start;
}
.top > :first-child {
  flex: 1 1 180px;
}
.drawn {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  margin-top: 10px;
  padding: 14px;
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.drawn img {
  max-width: 190px;
  max-height: 150px;
  object-fit: contain;
  border-radius: 8px 2px;
}
pre {
  flex: 1 1 220px;
  margin: 0;
  font: inherit;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
p {
  margin: 6px 0 0;
}
form {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(190px, 1fr));
  gap: 10px;
}
.wide {
  grid-column: 1 / -1;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  align-items: center;
}
.size {
  margin-left: 10px;
}
.bad {
  color: var(--copper);
}
</style>
