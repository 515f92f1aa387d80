<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue';
import type { Domain, Link, Restriction } from '#core/catalogue';
import { isSourceName } from '#core/hop';
import type { Copied, CopyForm, DisclosureLength, PlacedPicture } from '#core/placing';
import { anchorFault, clipOf, copyForms, disclosureOf, disclosurePlaces } from '#core/placing';
import { useCatalogue } from '../../data/catalogue.ts';
import { useNotice } from '../../shell/notice.ts';
import { useLinkUse } from '../linkUse.ts';
import { copyWords } from './copyWords.ts';
import PictureFields from './PictureFields.vue';
import QrDialog from './QrDialog.vue';
import { usePlacing } from './placing.ts';

/** A link as everything a reader may meet it as: the second press copies it. */
const open = defineModel<boolean>({ required: true });
const props = defineProps<{ link: Link; domain: Domain; activator: HTMLElement }>();
const catalogue = useCatalogue();
const notice = useNotice();
const { placingOf } = usePlacing();
const use = useLinkUse(() => props.link.id);

const source = ref('');
const text = ref('');
const textField = useTemplateRef<{ focus: () => void }>('textField');
const length = ref<DisclosureLength>('usual');
const inOwnLook = ref(true);
const picturing = ref(false);
const picture = ref<PlacedPicture | undefined>();
const usualText = (): string => {
  const usual = placingOf(props.link, props.domain);
  return 'refused' in usual ? '' : usual.link.text;
};
watch(
  [() => props.link.id, open],
  () => {
    text.value = usualText();
    picturing.value = false;
  },
  { immediate: true },
);
const forms = useTemplateRef<{ $el: HTMLElement }>('forms');
/** The keyboard is on the first form there is, so that Enter twice copies. */
watch(
  open,
  async (is) => {
    for (let frame = 0; is && frame < 30; frame++) {
      const first = forms.value?.$el.querySelector<HTMLElement>('[role=menuitem]:not([aria-disabled])');
      first?.focus();
      if (first && document.activeElement === first) return;
      await new Promise(requestAnimationFrame);
    }
  },
  { immediate: true },
);
/** Closes it, with the keyboard where it was before. */
const close = (): void => {
  open.value = false;
  props.activator.focus();
};
/** Those it had visitors from, and those somebody described; slips are offered to nobody. */
const sources = computed(() => {
  const described = catalogue.sources.flatMap(({ source: name, as }) => (as === undefined ? [name] : []));
  return [...new Set([...use.value.sources.keys(), ...described])].filter((name) => name !== '').sort();
});
const sourceProblem = computed(() =>
  source.value === '' || isSourceName(source.value)
    ? ''
    : 'A source is letters and digits, with - and _ between them, at most 64.',
);
const placing = computed(() =>
  placingOf(props.link, props.domain, sourceProblem.value === '' ? source.value : '', text.value.trim()),
);
const restrictions = computed((): readonly Restriction[] =>
  'refused' in placing.value ? [] : placing.value.restrictions,
);
const because = (what: Restriction['what']) => restrictions.value.find((one) => one.what === what)?.because;
const fault = computed(() =>
  'refused' in placing.value
    ? undefined
    : anchorFault(text.value, placing.value.name, placing.value.restrictions),
);
const look = computed(() => (inOwnLook.value ? catalogue.settings.placing : undefined));
const copied = computed((): Copied | undefined =>
  'refused' in placing.value
    ? undefined
    : {
        link: placing.value.link,
        picture: picture.value,
        look: look.value,
        disclosure: {
          post: disclosureOf('post', length.value, placing.value.disclosure),
          mail: disclosureOf('mail', length.value, placing.value.disclosure),
        },
      },
);
/** Why a form is not to be had now; empty where it is. */
const whyNot = (form: CopyForm): string => {
  if (form === 'post' && because('social')) return because('social') ?? '';
  if (form === 'mail' && because('mail')) return because('mail') ?? '';
  if (sourceProblem.value !== '') return sourceProblem.value;
  // The words of a picture are its own.
  return form !== 'picture' && fault.value?.refused ? fault.value.says : '';
};
const hasRel = computed(() => !('refused' in placing.value) && placing.value.link.marks.rel.length > 0);
const items = computed(() =>
  copyForms.map((form) => {
    const why = whyNot(form);
    const plain = copied.value && why === '' && form !== 'picture' ? clipOf(form, copied.value).plain : '';
    const carriesNone = hasRel.value && (form === 'markdown' || form === 'bbcode');
    return { form, why, plain, note: carriesNone ? 'carries no rel values' : '' };
  }),
);

const copy = async (form: CopyForm): Promise<void> => {
  if (!copied.value) return;
  const clip = clipOf(form, copied.value);
  close();
  await notice.copy(clip, copyWords[form].copied);
};
const choose = (form: CopyForm) =>
  form === 'picture' ? (picturing.value = !picturing.value) : void copy(form);
const addName = () =>
  (text.value = `${text.value.trim()}, ${'refused' in placing.value ? '' : placing.value.name}`);
const keepText = async () => {
  const { anchor: _, ...rest } = props.link;
  const anchor = text.value.trim();
  const step = await catalogue.saveRecord(
    'link',
    anchor === props.link.title ? rest : { ...rest, anchor },
    catalogue.rowNow(props.link.id),
  );
  notice.did(`“${anchor}” is what ${props.link.slug} is linked by.`, step);
  // What was pressed is gone now.
  textField.value?.focus();
};
const isOtherText = computed(() => text.value.trim() !== '' && text.value.trim() !== usualText());
const disclosureWords = { page: 'a page', post: 'a post', mail: 'a mail', video: 'a video' } as const;
const copyDisclosure = async (place: (typeof disclosurePlaces)[number]) => {
  close();
  await notice.copy(
    disclosureOf(place, length.value, 'refused' in placing.value ? '' : placing.value.disclosure),
    `The disclosure for ${disclosureWords[place]} is copied.`,
  );
};
const qrMade = ref(false);
const qrOpen = ref(false);
const showQr = () => {
  qrMade.value = true;
  qrOpen.value = true;
  open.value = false;
};
const canShare = 'share' in navigator;
const share = async () => {
  if (!copied.value) return;
  const { link, disclosure } = copied.value;
  open.value = false;
  // Whoever closes the sheet again has shared nothing.
  await navigator
    .share({ title: link.text, text: `${link.text}\n\n${disclosure.post}`, url: link.address })
    .catch(() => undefined);
};
</script>

<template>
  <v-menu
    v-model="open"
    :activator="activator"
    :open-on-click="false"
    :close-on-content-click="false"
    location="bottom end"
  >
    <div class="copying" role="dialog" :aria-label="`Copy ${link.slug} as`" @keydown.esc.stop="close">
      <p v-if="'refused' in placing" class="bad" role="alert">Nothing is copied. {{ placing.refused }}</p>
      <template v-else>
        <div class="fields">
          <v-text-field ref="textField" v-model="text" label="Linked text" />
          <v-combobox
            :model-value="source"
            :items="sources"
            label="Source"
            placeholder="none"
            persistent-placeholder
            class="mono"
            @update:model-value="source = ($event ?? '').trim()"
          />
        </div>
        <p v-if="fault" :class="fault.refused ? 'bad' : 'quiet'" role="note">
          {{ fault.says }}
          <text-link v-if="fault.refused && placing.name !== ''" @click="addName">
            Add “{{ placing.name }}”
          </text-link>
        </p>
        <p v-if="sourceProblem !== ''" class="bad" role="note">{{ sourceProblem }}</p>
        <p v-if="isOtherText" class="quiet">
          <text-link @click="keepText">Keep this text for the link</text-link>
        </p>
        <v-list
          ref="forms"
          density="compact"
          class="forms"
          role="menu"
          :aria-label="`What ${link.slug} is copied as`"
        >
          <v-list-item
            v-for="{ form, why, plain, note } in items"
            :key="form"
            role="menuitem"
            :disabled="why !== ''"
            :aria-disabled="why !== '' ? 'true' : undefined"
            :aria-expanded="form === 'picture' ? picturing : undefined"
            @click="choose(form)"
          >
            <div class="form">
              <span>{{ copyWords[form].title }}</span>
              <code v-if="plain !== ''">{{ plain }}</code>
              <span v-else-if="why !== '' && why !== fault?.says && why !== sourceProblem" class="quiet">{{
                why
              }}</span>
              <span v-else-if="form === 'picture'" class="quiet">with words, size and side</span>
            </div>
            <span v-if="note !== ''" class="quiet note">{{ note }}</span>
          </v-list-item>
        </v-list>
        <picture-fields
          v-if="picturing"
          v-model="picture"
          :address="link.picture"
          :slug="link.slug"
          :title="text"
          @copy="copy('picture')"
        />
        <div class="line">
          <v-select
            v-model="length"
            class="small-field"
            single-line
            :items="['short', 'usual', 'long']"
            aria-label="Length of the disclosure"
          />
          <span>disclosure for</span>
          <text-link v-for="place in disclosurePlaces" :key="place" @click="copyDisclosure(place)">{{
            disclosureWords[place]
          }}</text-link>
        </div>
        <div class="line">
          <v-checkbox v-if="catalogue.settings.placing" v-model="inOwnLook" label="In your own look" />
          <text-link v-if="sourceProblem === ''" @click="showQr">QR code</text-link>
          <text-link v-if="canShare && !because('social')" @click="share">Share…</text-link>
        </div>
      </template>
    </div>
  </v-menu>
  <qr-dialog
    v-if="qrMade && copied"
    v-model="qrOpen"
    :address="copied.link.address"
    :file-name="source === '' ? link.slug : `${link.slug}-${source}`"
  />
</template>

<style scoped>
.copying {
  width: min(520px, 96vw);
  max-height: 78vh;
  overflow: auto;
  padding: 14px 16px 10px;
  font-size: 14px;
  color: var(--ink);
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
}
.fields {
  display: grid;
  grid-template-columns: 3fr 2fr;
  gap: 10px;
}
p {
  margin: 6px 0 0;
  font-size: 13px;
}
.bad {
  color: var(--copper);
}
.forms {
  margin: 8px -16px;
  background: none;
}
.form {
  display: grid;
  grid-template-columns: 104px 1fr;
  gap: 12px;
  align-items: baseline;
  font-size: 14px;
}
.form code,
.form .quiet {
  overflow: hidden;
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.form .quiet {
  white-space: normal;
}
.note {
  display: block;
  margin-left: 116px;
  font-size: 12px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  font-size: 13px;
}
@media (max-width: 500px) {
  .fields {
    grid-template-columns: 1fr;
  }
  .form {
    grid-template-columns: 88px 1fr;
  }
  .note {
    margin-left: 100px;
  }
}
</style>
