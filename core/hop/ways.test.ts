import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { HopChoices } from '#core/catalogue';
import { newDomain, ownAfterEdit, pageKinds, redirectStatuses } from '#core/catalogue';
import { isSameWay, waysFrom } from './index.ts';

const defaultHop = newDomain('dom_a', 'go.example', 'UTC').hop;
const choose = (from: HopChoices, title: RegExp): HopChoices => {
  const way = waysFrom(from).find((one) => title.test(one.title));
  if (!way) throw new Error(`There is no way called ${String(title)}.`);
  return way.choices;
};
const waitingPage: HopChoices = {
  ...defaultHop,
  page: 'script',
  wait: { ...defaultHop.wait, seconds: 8, text: 'One moment.' },
};

describe('another way', () => {
  it('leaves alone what it has no use for: a redirect on a domain whose page waits is one choice of its own', () => {
    const next = choose(waitingPage, /^302/);
    expect(ownAfterEdit(next, waitingPage, {})).toEqual({ page: 'none', status: 302 });
  });

  it('to a page without waiting takes only the seconds away, and to one that waits keeps how long and in which words', () => {
    expect(choose(waitingPage, /by script/).wait).toEqual({ ...waitingPage.wait, seconds: 0 });
    expect(choose(waitingPage, /waits 8 s/)).toEqual(waitingPage);
    expect(choose(defaultHop, /waits 5 s/)).toMatchObject({ page: 'refresh', wait: { seconds: 5 } });
  });

  it('is one of which just one is how it is now, and each leads to itself: property', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...pageKinds),
        fc.constantFrom(...redirectStatuses),
        fc.integer({ min: 0, max: 120 }),
        (page, status, seconds) => {
          const current = { ...defaultHop, page, status, wait: { ...defaultHop.wait, seconds } };
          expect(waysFrom(current).filter(({ choices }) => isSameWay(choices, current))).toHaveLength(1);
          for (const { choices } of waysFrom(current))
            expect(waysFrom(choices).filter((one) => isSameWay(one.choices, choices))).toHaveLength(1);
        },
      ),
    ));
});
