import type { ComputedRef } from 'vue';
import { computed, reactive } from 'vue';

/**
 * A list of records in which one whose form is open stays when somebody removes it meanwhile, so that nothing typed is lost.
 */
export const useKeptWhileEdited = <T extends { readonly id: string }>(
  records: () => readonly T[],
): { shown: ComputedRef<readonly T[]>; setEditing: (id: string, open: boolean) => void } => {
  const editing = reactive(new Set<string>());
  const shown = computed<readonly T[]>((before) => {
    const now = records();
    const gone = (before ?? []).filter(
      ({ id }) => editing.has(id) && !now.some((record) => record.id === id),
    );
    return gone.length === 0 ? now : [...now, ...gone];
  });
  const setEditing = (id: string, open: boolean): void => {
    if (open) editing.add(id);
    else editing.delete(id);
  };
  return { shown, setEditing };
};
