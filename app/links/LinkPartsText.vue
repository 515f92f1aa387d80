<script setup lang="ts">
import { computed } from 'vue';
import type { LinkParts } from '#core/link-parts';
import { tokenNames } from '#core/hop';

/** A destination with its parts marked: account, program, slots, the page inside. Every byte is shown as it is. */
const props = defineProps<{ linkParts: LinkParts }>();

const tokens = new Set(tokenNames.map((name) => `{${name}}`));
/** Where something of a role begins and ends. */
const marked = computed(() =>
  props.linkParts.pairs
    .filter(({ role, raw }) => role !== 'other' && raw !== '')
    .map(({ role, at, raw }) => ({ role, from: at, to: at + raw.length })),
);
const pieces = computed(() => {
  let at = 0;
  return props.linkParts.split.parts.flatMap((part) => {
    const [from, to] = [at, at + part.text.length];
    at = to;
    const quiet =
      part.kind === 'scheme' || part.kind === 'authority' || (part.kind === 'mark' && part.text === '://');
    // A part of the address may hold several of them: the pieces of a path, the labels of a host.
    const cuts = marked.value
      .flatMap((mark) => [mark.from, mark.to])
      .filter((cut) => cut > from && cut < to)
      .toSorted((a, b) => a - b);
    return [from, ...cuts].flatMap((begin, i) => {
      const end = cuts[i] ?? to;
      const role = marked.value.find((mark) => mark.from <= begin && end <= mark.to)?.role;
      // Tokens stand out wherever they are.
      return part.text
        .slice(begin - from, end - from)
        .split(/(\{[a-z]+\})/)
        .flatMap((text) =>
          text === ''
            ? []
            : [{ text, role: tokens.has(text) ? 'token' : (role ?? (quiet ? 'quiet' : 'plain')) }],
        );
    });
  });
});
</script>

<template>
  <p class="link-parts mono">
    <span
      v-for="(piece, i) in pieces"
      :key="i"
      :class="piece.role"
      :title="piece.role === 'plain' || piece.role === 'quiet' ? undefined : piece.role"
      >{{ piece.text }}</span
    >
  </p>
</template>

<style scoped>
.link-parts {
  margin: 4px 0 0;
  padding: 9px 11px;
  line-height: 1.7;
  background: var(--paper);
  border: 1px solid var(--line);
  border-radius: var(--leaf-card);
  overflow-wrap: anywhere;
}
.quiet {
  color: var(--ink-two);
}
.account {
  border-bottom: 2px solid var(--ink-two);
}
.program {
  border-bottom: 2px solid var(--slate);
}
.page {
  border-bottom: 2px dotted var(--copper);
}
.creative {
  border-bottom: 2px dashed var(--sand);
}
.token {
  padding: 1px 3px;
  font-weight: 600;
  color: var(--fern);
  background: var(--fern-soft);
  border-radius: var(--leaf-tile);
}
</style>
