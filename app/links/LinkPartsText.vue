<script setup lang="ts">
import { computed } from 'vue';
import type { LinkParts } from '#core/link-parts';
import { tokenNames } from '#core/hop';

/** A destination with its parts marked: account, program, slots, the page inside. Every byte is shown as it is. */
const props = defineProps<{ linkParts: LinkParts }>();

const tokens = new Set(tokenNames.map((name) => `{${name}}`));
const pieces = computed(() => {
  const byName = new Map(props.linkParts.pairs.map((pair) => [pair.name, pair]));
  let value = '';
  return props.linkParts.split.parts.flatMap((part) => {
    if (part.kind === 'name') value = part.text;
    const role = part.kind === 'value' ? byName.get(value)?.role : undefined;
    const quiet =
      part.kind === 'scheme' || part.kind === 'authority' || (part.kind === 'mark' && part.text === '://');
    // Tokens stand out wherever they are.
    return part.text
      .split(/(\{[a-z]+\})/)
      .flatMap((text) =>
        text === '' ? [] : [{ text, role: tokens.has(text) ? 'token' : quiet ? 'quiet' : (role ?? 'plain') }],
      );
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
