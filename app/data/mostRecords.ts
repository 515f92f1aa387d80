/** Bytes that a record of the journal takes in a browser, with room for how it lies on the disk. */
const recordBytes = 300;
/** The journal is held in memory too, where more than this is more than a browser has. */
const mostInMemory = 5_000_000;
const step = 100_000;

/**
 * How many records of the journal a browser is to keep, as long as the person says nothing: what half of its room holds.
 *
 * @param quota bytes the browser says it has room for; undefined where it says nothing
 * @returns whole hundred thousands, at least one
 */
export const proposedMost = (quota: number | undefined): number => {
  const half = quota === undefined ? mostInMemory : quota / 2 / recordBytes;
  return Math.max(step, Math.floor(Math.min(half, mostInMemory) / step) * step);
};

/** The same for the browser this runs in. */
export const proposedHere = async (): Promise<number> =>
  // Only where the address is secure; elsewhere browsers tell nothing.
  proposedMost('storage' in navigator ? (await navigator.storage.estimate()).quota : undefined);
