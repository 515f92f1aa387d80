<script setup lang="ts">
/** A line of a list that is ticked or not, pressed as a whole; what stands behind its words goes into `append`. */
defineProps<{
  ticked: boolean;
  /** What it is where it stands: a choice of a menu, or of a group. */
  role: 'menuitemcheckbox' | 'checkbox';
}>();
</script>

<template>
  <v-list-item :role="role" :aria-checked="ticked">
    <template #prepend>
      <!-- A drawing: the item itself is what is pressed. -->
      <v-icon
        :icon="ticked ? '$checkboxOn' : '$checkboxOff'"
        :color="ticked ? 'primary' : undefined"
        size="19"
        aria-hidden="true"
      />
    </template>
    <v-list-item-title><slot /></v-list-item-title>
    <template v-if="$slots.append" #append><slot name="append" /></template>
  </v-list-item>
</template>
