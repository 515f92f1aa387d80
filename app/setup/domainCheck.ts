import { onUnmounted, ref, shallowRef } from 'vue';
import type { DomainCheck } from '../data/server.ts';
import { checkDomain } from '../data/server.ts';

/** After how long a domain that does not answer yet is looked at again: soon at first, then once a minute. */
const waitsMs = [5000, 10_000, 20_000, 40_000, 60_000];

/** Looks whether a domain answers from the outside, again and again until it does. */
export const useDomainCheck = (host: () => string) => {
  const checked = shallowRef<DomainCheck | undefined>();
  const checking = ref(false);
  const checkFailed = ref(false);
  /** When it was looked at last. */
  const lookedAt = ref(0);
  let looks = 0;
  let isOver = false;
  let timer: ReturnType<typeof setTimeout> | undefined;

  const lookNow = async (): Promise<void> => {
    clearTimeout(timer);
    if (checking.value) return;
    checking.value = true;
    checkFailed.value = false;
    try {
      checked.value = await checkDomain(host());
    } catch {
      checkFailed.value = true;
    }
    checking.value = false;
    lookedAt.value = Date.now();
    if (isOver || (checked.value?.good && !checkFailed.value)) return;
    timer = setTimeout(() => void lookNow(), waitsMs[Math.min(looks++, waitsMs.length - 1)]);
  };
  /** Looks now, and goes on until it answers. */
  const look = (): Promise<void> => {
    looks = 0;
    return lookNow();
  };
  onUnmounted(() => {
    isOver = true;
    clearTimeout(timer);
  });

  return { checked, checking, checkFailed, lookedAt, look };
};
