<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { mdiChevronDown } from '@mdi/js';
import { computed, defineAsyncComponent, ref, useTemplateRef, watch } from 'vue';
import type { Link } from '#core/catalogue';
import { replaceTag, unknownTag } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { newId } from '../data/random.ts';
import type { Row } from '../sync/index.ts';
import { useNotice } from '../shell/notice.ts';
import { isTyping } from '../shell/keys.ts';
import { firstDrawn } from '../shell/firstDrawn.ts';
import { usePaste } from '../shell/paste.ts';
import { shortUrl } from './address.ts';
import DestinationSection from './DestinationSection.vue';
import EntrySection from './EntrySection.vue';
import HopSection from './HopSection.vue';
import { useLinkActions } from './linkActions.ts';
import MarksSection from './MarksSection.vue';
import ReturnSection from './ReturnSection.vue';
import SplitSection from './SplitSection.vue';
import WillItPay from './WillItPay.vue';

const ArchivedNote = defineAsyncComponent(() => import('./ArchivedNote.vue'));
const AsVisitor = defineAsyncComponent(() => import('./AsVisitor.vue'));
const CopyMenu = defineAsyncComponent(() => import('./copying/CopyMenu.vue'));
const LinkMore = defineAsyncComponent(() => import('./LinkMore.vue'));
const Versions = defineAsyncComponent(() => import('../waiting/Versions.vue'));
const NextSteps = defineAsyncComponent(() => import('./NextSteps.vue'));

const props = defineProps<{ link: Link }>();
const emit = defineEmits<{ back: []; editing: [is: boolean] }>();
const catalogue = useCatalogue();
const notice = useNotice();
const paste = usePaste();
const { copy, test } = useLinkActions();
const editing = ref<'entry' | 'split' | 'destination' | 'hop' | 'marks' | undefined>();
const more = ref(false);
const copying = ref(false);
/** Made when it is first opened, and kept: several links are often copied for one source. */
const copyMenuMade = ref(false);
watch(copying, () => (copyMenuMade.value = true));
const copyAs = useTemplateRef<{ $el: HTMLElement }>('copyAs');
const stem = useTemplateRef('stem');
const domain = computed(() => catalogue.domain(props.link.domain));
const waiting = computed(() => catalogue.waiting.get(props.link.id));
const tag = computed(() => catalogue.unregisteredTag(props.link.id));
const ownTags = computed(() =>
  catalogue.accounts.filter((account) => account.network === tag.value?.network.id),
);
const registerTag = async () => {
  if (!tag.value) return;
  const owner = catalogue.by || 'me';
  await catalogue.saveRecord('account', {
    id: newId('acc'),
    network: tag.value.network.id,
    tag: tag.value.tag,
    owner,
  });
};
const useTag = async (own: string) => {
  const mended = (destination: string) => {
    const found = unknownTag(destination, catalogue.networks, catalogue.programs, catalogue.accounts);
    return found ? replaceTag(destination, found, own) : destination;
  };
  const { branches, ...link } = props.link;
  await catalogue.saveRecord('link', {
    ...link,
    destination: mended(link.destination),
    ...(branches && { branches: branches.map((b) => ({ ...b, destination: mended(b.destination) })) }),
  });
};
const where = computed(() => catalogue.where(props.link.id));

watch(
  () => props.link.id,
  () => {
    editing.value = undefined;
    more.value = false;
    copying.value = false;
  },
);
/** The link as it was when the section was opened: what others change meanwhile is kept. */
let began: Row | undefined;
watch(
  editing,
  (section) => {
    began = catalogue.rowNow(props.link.id);
    emit('editing', section !== undefined);
  },
  { flush: 'sync' },
);
const isRemoved = computed(() => catalogue.link(props.link.id) === undefined);
const save = async (link: Link) => {
  const section = editing.value;
  if (section === undefined) {
    // One press beside a sentence, made of what stands now.
    const step = await catalogue.saveRecord('link', link, catalogue.rowNow(link.id));
    notice.did(`${link.slug} is changed.`, step);
    return;
  }
  await catalogue.saveRecord('link', link, began);
  // Whoever went on to another section while this one was kept stays there.
  if (editing.value === section) editing.value = undefined;
};
const isOpenControl = (target: EventTarget | null): boolean =>
  target instanceof Element && target.closest('[aria-haspopup][aria-expanded="true"]') !== null;
/** One key opens each section, by the first letter of its name. */
const sectionKeys: Readonly<Record<string, typeof editing.value>> = {
  e: 'entry',
  s: 'split',
  d: 'destination',
  h: 'hop',
  m: 'marks',
};
const onKey = (event: KeyboardEvent) => {
  if (isTyping(event.target)) return;
  const control = event.ctrlKey || event.metaKey;
  const section = sectionKeys[event.key];
  // While a menu hangs on what is in focus, Escape closes that.
  if (event.key === 'Escape' && isOpenControl(event.target)) {
    copying.value = false;
    return;
  }
  if (event.key === 'Escape') emit('back');
  else if (control && event.key.toLowerCase() === 'c' && getSelection()?.isCollapsed) void copy(props.link);
  else if (section && editing.value === undefined && !control && !event.altKey) editing.value = section;
  else if (event.key === 'Enter' && (event.ctrlKey || event.metaKey)) void test(props.link);
  else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
    const sections = [...(stem.value?.querySelectorAll<HTMLElement>('.section-edit') ?? [])];
    const at = sections.findIndex((section) => section === document.activeElement);
    sections[Math.min(sections.length - 1, Math.max(0, at + (event.key === 'ArrowDown' ? 1 : -1)))]?.focus();
  } else return;
  event.preventDefault();
};
defineExpose({ focus: () => stem.value?.querySelector<HTMLElement>('.section-edit')?.focus() });
</script>

<template>
  <div v-if="domain" class="pane" @keydown="onKey">
    <header>
      <div class="top">
        <h2>{{ link.title }}</h2>
        <v-btn color="primary" @click="copy(link)"
          >Copy<hint>Copy the short link <v-hotkey keys="ctrl+c" inline /></hint
        ></v-btn>
        <v-btn
          ref="copyAs"
          class="quiet-button as"
          aria-label="Copy as"
          aria-haspopup="dialog"
          :aria-expanded="copying"
          @click="copying = !copying"
          ><v-icon :icon="mdiChevronDown" size="18" /><hint
            >Copy as HTML, Markdown, a button, a picture, a text for a post</hint
          ></v-btn
        >
        <copy-menu
          v-if="copyMenuMade && copyAs"
          v-model="copying"
          :link="link"
          :domain="domain"
          :activator="copyAs.$el"
        />
        <v-btn class="quiet-button" @click="test(link)"
          >Test<hint>Open it without being counted <v-hotkey keys="ctrl+enter" inline /></hint
        ></v-btn>
        <v-btn class="quiet-button" aria-label="More" @click="more = !more"
          >…<hint>More that can be done with it</hint></v-btn
        >
      </div>
      <div class="under">
        <a class="mono" :href="shortUrl(domain, link)" target="_blank" rel="noopener"
          >{{ domain.host }}/{{ domain.prefix }}{{ link.slug }}</a
        >
        <span v-if="where === 'live'" class="quiet" role="status">{{
          link.archived ? 'archived' : 'live'
        }}</span>
      </div>
    </header>
    <link-more v-if="more" :link="link" :domain="domain" @done="more = false" @removed="emit('back')" />
    <div ref="stem" class="stem">
      <next-steps v-if="paste.first === link.id" :link="link" @copy="copy(link)" />
      <p v-if="isRemoved" class="state bad" role="alert">
        Somebody removed this link while you edit it. Save, and you are asked which stays.
      </p>
      <versions v-if="waiting?.theirs" :waiting="waiting" />
      <p v-else-if="waiting?.refusal" class="state bad" role="alert">
        <strong>Refused.</strong> {{ waiting.refusal.message }} The edit is kept here; mend it and it is sent
        again.
      </p>
      <p v-else-if="tag" class="state bad" role="alert">
        <strong>Saved here, not live.</strong> The account tag {{ tag.tag }} is not in the register of
        {{ tag.network.name }}, so nobody might be credited.
        <text-link @click="registerTag">Register it</text-link>
        <text-link v-for="account in ownTags" :key="account.id" @click="useTag(account.tag)">
          Use {{ account.tag }} ({{ account.owner }})
        </text-link>
      </p>
      <p v-else-if="where === 'here'" class="state" role="status">
        Saved here. It goes live when the server has taken it.
      </p>
      <archived-note :link="link" />
      <div class="sections">
        <entry-section
          :link="link"
          :domain="domain"
          :editing="editing === 'entry'"
          @edit="editing = 'entry'"
          @save="save"
          @cancel="editing = undefined"
        />
        <split-section
          :link="link"
          :domain="domain"
          :editing="editing === 'split'"
          @edit="editing = 'split'"
          @save="save"
          @cancel="editing = undefined"
        />
        <destination-section
          :link="link"
          :editing="editing === 'destination'"
          @edit="editing = 'destination'"
          @save="save"
          @cancel="editing = undefined"
        />
        <hop-section
          :link="link"
          :domain="domain"
          :editing="editing === 'hop'"
          @edit="editing = 'hop'"
          @save="save"
          @cancel="editing = undefined"
        />
        <marks-section
          :link="link"
          :domain="domain"
          :editing="editing === 'marks'"
          @edit="editing = 'marks'"
          @save="save"
          @cancel="editing = undefined"
        />
        <return-section :link="link" />
      </div>
    </div>
    <will-it-pay
      v-show="!editing && !link.archived"
      :link="link"
      :domain="domain"
      @mend="catalogue.saveRecord('link', { ...link, destination: $event })"
      @marks="editing = 'marks'"
    />
    <div v-show="!editing" class="visitor-place">
      <as-visitor v-if="firstDrawn" :key="link.id" :link="link" :domain="domain" />
    </div>
  </div>
</template>

<style scoped>
.pane {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
header {
  padding: 14px 18px 10px;
}
.top {
  display: flex;
  align-items: flex-start;
  gap: 8px;
}
.top h2 {
  flex: 1;
  min-width: 0;
}
.as {
  min-width: 30px;
  margin-left: -4px;
  padding: 0 4px;
}
.under {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  margin-top: 2px;
}
.under a {
  color: var(--fern);
  text-decoration: none;
  overflow-wrap: anywhere;
}
.stem {
  flex: 1;
  overflow: auto;
  padding: 0 18px 12px;
}
.sections {
  position: relative;
}
.sections::before {
  content: '';
  position: absolute;
  left: 15px;
  top: 4px;
  bottom: 0;
  width: 1.5px;
  background: var(--fern);
}
.state {
  margin: 0 0 10px;
  font-size: 13px;
  color: var(--copper);
}
.state.bad {
  padding: 8px 12px;
  background: var(--copper-soft);
  border-radius: var(--leaf-card);
}
.visitor-place {
  flex: none;
  min-height: 152px;
  max-height: 45%;
  overflow: auto;
  background: var(--sunk);
  border-top: 1px solid var(--line);
}
/* On a phone the whole route scrolls, not a part of it between two others. */
@media (max-width: 760px) {
  .pane {
    overflow: auto;
  }
  .stem {
    flex: none;
    overflow: visible;
  }
  .visitor-place {
    max-height: none;
  }
}
</style>
