import { readonly, ref } from 'vue';

const drawn = ref(false);
/**
 * True once what a person came for stands on the first screen. What only changes or filters it is drawn then, in a place that
 * is kept for it: its many small fields would hold up the list.
 */
export const firstDrawn = readonly(drawn);

/** Says that the list stands; the rest follows as soon as the browser has nothing else to do. */
export const listIsThere = (): void => {
  if (!drawn.value) requestIdleCallback(() => (drawn.value = true), { timeout: 1500 });
};
