import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import type { BrowserSeal, KeptSeal } from '#core/catalogue';
import { keepSeal, sealToCheck } from '#core/catalogue';
import type { Health, Signed } from '../sync/index.ts';
import { database, readMeta } from '../sync/index.ts';
import { askSeal, getAbout, heardHealth, sealNow } from './server.ts';

/**
 * Seals of the server's journal that this browser keeps, so that whoever alters the journal and seals it anew is found out.
 */
export const useSeals = defineStore('seals', () => {
  /** Oldest first, the newest of each day. */
  const kept = shallowRef<readonly BrowserSeal[]>([]);
  /** One that the server's chain has to hold and does not; no others are kept until the person has seen it. */
  const missing = shallowRef<BrowserSeal | undefined>();
  /** The server says itself that files of its journal are not what was sealed. */
  const isDamaged = computed(() => (heardHealth.value?.damaged ?? 0) > 0);
  /** The server, in the generation, against which what is kept was held last. */
  let checkedAgainst = '';

  const write = async (seals: readonly BrowserSeal[]): Promise<void> => {
    kept.value = seals;
    await (await database()).put('meta', seals, 'seals');
  };

  const hear = async ({ seal, signature }: Signed<Health>): Promise<void> => {
    if (checkedAgainst !== signature) {
      const { generations } = await getAbout();
      const held = sealToCheck(kept.value, generations);
      missing.value = held && !(await askSeal(held.hash)) ? held : undefined;
      checkedAgainst = signature;
    }
    if (!seal || missing.value) return;
    const generation = signature.split(' ')[1] ?? '';
    const next = keepSeal(kept.value, { ...seal, generation });
    if (next !== kept.value) await write(next);
  };

  /** Lets go what is kept, once the person has seen that the chain is another one, and keeps what it has from now on. */
  const beginAnew = async (): Promise<void> => {
    missing.value = undefined;
    await write([]);
  };

  /** A seal over all there is now; where the server is away, the newest that was heard of. */
  const newest = async (): Promise<KeptSeal | undefined> => {
    const heard = kept.value.at(-1);
    return sealNow().catch(() => heard && { hash: heard.hash, seq: heard.seq, at: heard.at });
  };

  const start = async (): Promise<void> => {
    kept.value = (await readMeta((await database()).transaction('meta').store, 'seals')) ?? [];
    watch(
      heardHealth,
      (health) => {
        // Whatever fails here is asked again with the next answer.
        if (health) hear(health).catch(() => undefined);
      },
      { immediate: true },
    );
  };

  return { beginAnew, isDamaged, kept, missing, newest, start };
});
