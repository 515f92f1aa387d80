<script setup lang="ts">
/** A small leaf: filled, outlined or half, in the colour of its meaning. Always beside a word. */
defineProps<{ tone: 'fern' | 'copper' | 'slate' | 'plum' | 'sand'; outlined?: boolean; size?: number }>();
</script>

<template>
  <span
    class="leaf-mark"
    :class="[tone, { outlined }]"
    :style="{ width: `${size ?? 9}px`, height: `${size ?? 9}px` }"
    aria-hidden="true"
  />
</template>

<style scoped>
.leaf-mark {
  display: inline-block;
  flex: none;
  border-radius: 70% 10%;
  background: var(--tone);
  border: 1.5px solid var(--tone);
}
.leaf-mark.outlined {
  background: none;
}
.fern {
  --tone: var(--fern);
}
.copper {
  --tone: var(--copper);
}
.slate {
  --tone: var(--slate);
}
.plum {
  --tone: var(--plum);
}
.sand {
  --tone: var(--sand);
}
</style>
