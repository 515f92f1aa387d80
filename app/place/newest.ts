import type { ShallowRef } from 'vue';
import { ref, shallowRef, watch } from 'vue';

/**
 * An answer that is asked for anew whenever something changes. While one is under way it is not asked again; what changed meanwhile is
 * asked for after it.
 */
export const useNewest = <T>(changes: () => unknown, ask: () => Promise<T>, first: T) => {
  const found: ShallowRef<T> = shallowRef(first);
  const loaded = ref(false);
  let asking = false;
  let isOld = false;
  watch(
    changes,
    async () => {
      isOld = true;
      if (asking) return;
      asking = true;
      try {
        while (isOld) {
          isOld = false;
          found.value = await ask();
          loaded.value = true;
        }
      } finally {
        asking = false;
      }
    },
    { immediate: true },
  );
  return { found, loaded };
};
