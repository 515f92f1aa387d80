import type { HopChoices } from '#core/catalogue';
import { hopWays } from './words.ts';

/** One way to send visitors on, as it is chosen from how a link does it now. */
export interface Way {
  readonly title: string;
  /** Every choice of the link once this way is taken. */
  readonly choices: HopChoices;
}

/** Seconds a page of one's own waits where nobody said how long. */
const usualWait = 5;

const isLeftPage = ({ page }: HopChoices): boolean => page === 'refresh' || page === 'script';
/** True where visitors are kept waiting on a page of one's own. */
const waits = (choices: HopChoices): boolean => isLeftPage(choices) && choices.wait.seconds > 0;

/** True where two sets of choices send visitors on in the same way, whatever else they differ in. */
export const isSameWay = (one: HopChoices, other: HopChoices): boolean =>
  one.page === other.page &&
  waits(one) === waits(other) &&
  (one.page !== 'none' || one.status === other.status);

/**
 * Every way a link can take instead of how it sends visitors on now. What a way has no use for stays as it is: a redirect does not
 * change how long a page would wait.
 */
export const waysFrom = (current: HopChoices): Way[] => {
  const waiting = (seconds: number) => ({ wait: { ...current.wait, seconds } });
  const seconds = current.wait.seconds || usualWait;
  return [
    ...hopWays.map(({ title, choices }) => {
      const next = { ...current, ...choices };
      return { title, choices: isLeftPage(next) ? { ...next, ...waiting(0) } : next };
    }),
    {
      title: `A page of yours that waits ${seconds} s`,
      choices: { ...current, ...waiting(seconds), page: current.page === 'script' ? 'script' : 'refresh' },
    },
  ];
};
