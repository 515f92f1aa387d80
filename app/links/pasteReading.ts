import { ref, shallowRef, watch } from 'vue';
import type { PasteEntry } from '#core/link-parts';
import { makePasteReader, pastedUnits } from '#core/link-parts';
import { useCatalogue } from '../data/catalogue.ts';
import { screenTurn } from '../data/screenTurn.ts';

/** How long reading goes on before the screen has its turn, in milliseconds. */
const turnMs = 12;

/** What stands in a pasted text, read anew when it or the register changes, without the screen standing still. */
export const usePasteReading = (text: () => string) => {
  const catalogue = useCatalogue();
  const entries = shallowRef<readonly PasteEntry[]>([]);
  const reading = ref(false);
  let newest = 0;
  const read = async (): Promise<void> => {
    const turn = ++newest;
    reading.value = true;
    // The field shows what was typed first.
    await screenTurn();
    if (turn !== newest) return;
    const found: PasteEntry[] = [];
    const readUnit = makePasteReader(catalogue);
    let began = performance.now();
    for (const unit of pastedUnits(text())) {
      found.push(...readUnit(unit));
      if (performance.now() - began < turnMs) continue;
      await screenTurn();
      if (turn !== newest) return;
      began = performance.now();
    }
    entries.value = found;
    reading.value = false;
  };
  watch(
    [
      text,
      () => catalogue.networks,
      () => catalogue.programs,
      () => catalogue.links,
      () => catalogue.domains,
    ],
    read,
    {
      immediate: true,
    },
  );
  return { entries, reading };
};
