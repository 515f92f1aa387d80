<script setup lang="ts">
import Hint from '../theme/Hint.vue';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { usePaste } from './paste.ts';
import { hasMoreThanText, transferOf } from './transfer.ts';

const paste = usePaste();
const field = useTemplateRef('field');
const chosen = ref(0);
const focused = ref(false);
const open = computed(() => focused.value && paste.text.trim() !== '');
const first = computed(() => paste.choices[0]);

watch(
  () => paste.text,
  () => (chosen.value = 0),
);
watch(
  () => paste.wanted,
  () => {
    field.value?.focus();
    focused.value = true;
  },
);

const act = async (index: number) => {
  await paste.ready();
  const choice = paste.choices[index];
  if (!choice) return;
  field.value?.blur();
  await choice.act();
};
const move = (by: number) => {
  const { length } = paste.choices;
  if (length > 0) chosen.value = (chosen.value + by + length) % length;
};
/** A field of one line would run several pasted lines into one, and knows nothing of what stands behind words. */
const onPaste = (event: ClipboardEvent) => {
  const transfer = transferOf(event.clipboardData);
  const more = hasMoreThanText(transfer);
  if (!more && !transfer.plain.trim().includes('\n')) return;
  event.preventDefault();
  if (more) void paste.offerTransfer(transfer);
  else paste.offer(transfer.plain);
};
/** Only a mouse that is moved chooses: one at rest, under which the list opens, changes nothing of what Enter does. */
const onMove = ({ movementX, movementY }: MouseEvent, index: number) => {
  if (movementX !== 0 || movementY !== 0) chosen.value = index;
};
const wordsOf = (will: string) => will.replace(/^(make|open|read|register|follow)\b/, (word) => `${word}s`);
const stripped = computed(() => first.value?.parts?.some((part) => !part.stays) ?? false);
const leave = () => {
  paste.text = '';
  field.value?.blur();
};
</script>

<template>
  <div class="bar" role="search">
    <!-- eslint-disable-next-line vue/no-restricted-html-elements -- a line of command: its text stays as typed, and what it means is listed under it; a combobox of values would filter and keep one -->
    <input
      ref="field"
      v-model="paste.text"
      class="mono"
      type="text"
      role="combobox"
      aria-label="Paste bar"
      aria-autocomplete="list"
      aria-controls="paste-choices"
      :aria-expanded="open"
      :aria-activedescendant="open && paste.choices.length > 0 ? `paste-${chosen}` : undefined"
      placeholder="Paste a link or a click ID, or type words"
      autocomplete="off"
      spellcheck="false"
      @focus="focused = true"
      @blur="focused = false"
      @keydown.enter.prevent="act(chosen)"
      @keydown.down.prevent="move(1)"
      @keydown.up.prevent="move(-1)"
      @keydown.esc.prevent="leave"
      @paste="onPaste"
    />
    <kbd v-if="paste.text === ''" aria-hidden="true">/</kbd>
    <text-link v-else-if="first" class="will" tabindex="-1" @mousedown.prevent="act(0)">
      {{ first.what }}: <strong>Enter</strong>
      {{ wordsOf(first.will) }}
    </text-link>
    <span v-else class="will none">Nothing found</span>
    <ul
      v-show="open && (paste.choices.length > 1 || stripped)"
      id="paste-choices"
      role="listbox"
      aria-label="What to do"
    >
      <li
        v-for="(choice, i) in paste.choices"
        :id="`paste-${i}`"
        :key="choice.id"
        role="option"
        :aria-selected="i === chosen"
        @mousedown.prevent="act(i)"
        @mousemove="onMove($event, i)"
      >
        <span>{{ choice.what }}</span><span class="quiet">{{ choice.will }}</span>
        <span v-if="choice.parts?.length" class="parts mono">
          <template v-for="(part, n) in choice.parts" :key="n">
            <span v-if="part.stays">{{ part.raw }}</span>
            <text-link v-else tabindex="-1" @mousedown.prevent.stop="paste.keep(part.name)">
              <s>{{ part.raw }}</s><hint>{{ `Taken away. Press to keep ${part.name}.` }}</hint>
            </text-link>
          </template>
        </span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.bar {
  position: relative;
  flex: 1;
  min-width: 0;
  max-width: 700px;
  height: 40px;
  display: flex;
  align-items: center;
  background: var(--surface);
  border: 1px solid var(--fern);
  border-radius: 16px 4px;
}
.bar:focus-within {
  box-shadow: 0 0 0 2px var(--fern-soft);
}
input {
  all: unset;
  flex: 1;
  min-width: 60px;
  padding: 0 16px;
  font-family: var(--mono);
  font-size: 13px;
  color: var(--ink);
}
input:placeholder-shown {
  font-family: 'Figtree Variable', sans-serif;
  font-size: 14px;
  text-overflow: ellipsis;
}
input::placeholder {
  color: var(--ink-two);
  opacity: 1;
}
kbd {
  margin-right: 8px;
  padding: 0 7px;
  font-size: 12px;
  color: var(--ink-two);
  border: 1px solid var(--line);
  border-radius: 4px 1px;
}
.will {
  all: unset;
  cursor: pointer;
  flex: none;
  max-width: 55%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  margin-right: 7px;
  padding: 3px 10px;
  font-size: 13px;
  color: var(--fern);
  background: var(--fern-soft);
  border-radius: 9px 3px;
}
.will.none {
  color: var(--copper);
  background: var(--copper-soft);
}
ul {
  position: absolute;
  z-index: 20;
  top: 46px;
  left: 0;
  right: 0;
  margin: 0;
  padding: 6px;
  list-style: none;
  background: var(--surface);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
  box-shadow: 0 8px 24px rgb(0 0 0 / 12%);
}
.parts {
  flex-basis: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  overflow-wrap: anywhere;
}
.parts .text-link {
  color: var(--copper);
}
li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 2px 16px;
  padding: 7px 10px;
  border-radius: 8px 2px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--fern-soft);
}
@media (max-width: 700px) {
  .will {
    max-width: 42%;
  }
}
</style>
