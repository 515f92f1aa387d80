<script setup lang="ts">
import type { DescribedChange } from '#core/hop';

/** What a change does, one thing after the other; what goes and comes inside an address is marked. */
defineProps<{ changes: readonly DescribedChange[] }>();
</script>

<template>
  <p v-for="(change, n) in changes" :key="n">
    {{ change.words }}
    <code v-if="change.diff"
      ><template v-for="(piece, k) in change.diff" :key="k"
        ><del v-if="piece.kind === 'gone'">{{ piece.text }}</del
        ><ins v-else-if="piece.kind === 'new'">{{ piece.text }}</ins
        ><template v-else>{{ piece.text }}</template></template
      ></code
    >
  </p>
</template>

<style scoped>
p {
  margin: 0;
  overflow-wrap: anywhere;
}
del {
  color: var(--plum);
  background: var(--plum-soft);
}
ins {
  color: var(--fern);
  text-decoration: none;
  background: var(--fern-soft);
}
</style>
