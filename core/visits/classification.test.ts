import fc from 'fast-check';
import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import type { HopRecord } from './index.ts';
import { Classification, defaultRules, outcomes as outcomeWords, VisitColumns } from './index.ts';
import { hopRecord } from './testing/records.ts';

const person = 'Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0';
const hop = (more: Partial<HopRecord>): HopRecord =>
  hopRecord({
    click: '01M84BDPSKXE4HN0RD2V6W3PBC',
    link: 'lnk_gloves',
    ua: person,
    visitor: 'a00a00a00a00a00a',
    country: 'DE',
    ...more,
  });
const minutes = 60_000;
/** Takes requests one after the other, and gives each its outcome at once. */
const makeClassifier = () => {
  const columns = new VisitColumns();
  const classification = new Classification(columns, isbot, defaultRules);
  const classify = (record: HopRecord) => {
    columns.add(record);
    classification.update();
    return classification.outcome(columns.rows - 1);
  };
  return {
    classify,
    /** What became of all of them by now. */
    outcomes: () => Array.from({ length: columns.rows }, (_, row) => classification.outcome(row)),
    counts: () =>
      Object.fromEntries(
        outcomeWords.map((word, i) => [word, classification.counts[i]]).filter(([, count]) => count !== 0),
      ),
  };
};

describe('the classification', () => {
  it('gives the first outcome that fits', () => {
    const { classify: classification } = makeClassifier();
    expect(classification(hop({ test: true, prefetch: true }))).toBe('test');
    expect(classification(hop({ prefetch: true, ua: '' }))).toBe('prefetch');
    expect(classification(hop({ ua: '' }))).toBe('bot');
    expect(classification(hop({ ua: 'Mozilla/5.0 (compatible; examplebot/2.1)' }))).toBe('bot');
    expect(classification(hop({ method: 'HEAD' }))).toBe('bot');
    expect(classification(hop({ status: 503 }))).toBe('not redirected');
    expect(classification(hop({}))).toBe('counted');
  });

  it('counts a visitor again 30 minutes after the last counted click, not after the last click', () => {
    const { classify: classification } = makeClassifier();
    const at = [0, 20, 29, 30, 59, 60].map((m) => classification(hop({ at: m * minutes })));
    expect(at).toEqual(['counted', 'repeat', 'repeat', 'counted', 'repeat', 'counted']);
  });

  it('counts clicks given back after newer ones at their own time', () => {
    const { classify: classification } = makeClassifier();
    const at = [600, 0, 20, 31, 590].map((m) => classification(hop({ at: m * minutes })));
    expect(at).toEqual(['counted', 'counted', 'repeat', 'counted', 'counted']);
  });

  it('takes nobody for a machine because of newer requests', () => {
    const { classify: classification } = makeClassifier();
    for (let i = 0; i < 20; i++) classification(hop({ at: 600 * minutes + i * 20_000, link: `lnk_${i}` }));
    expect(classification(hop({ at: 0, link: 'lnk_back' }))).toBe('counted');
  });

  it('counts another link and another visitor by themselves', () => {
    const { classify: classification } = makeClassifier();
    expect(classification(hop({}))).toBe('counted');
    expect(classification(hop({ link: 'lnk_chair' }))).toBe('counted');
    expect(classification(hop({ visitor: 'b00b00b00b00b00b' }))).toBe('counted');
  });

  it('takes more than 20 requests in 10 seconds for a machine, from the first of them', () => {
    const { classify, outcomes, counts } = makeClassifier();
    classify(hop({ at: -20_000, link: 'lnk_earlier' }));
    classify(hop({ at: -15_000, link: 'lnk_0' }));
    for (let i = 0; i < 25; i++) classify(hop({ at: i * 100, link: `lnk_${i % 3}` }));
    expect(outcomes()).toEqual(['counted', 'counted', ...Array.from({ length: 25 }, () => 'bot')]);
    expect(counts()).toEqual({ bot: 25, counted: 2 });
    // What the burst had counted is as if it had not been: the click before it is, and no other.
    expect(classify(hop({ at: 30_000, link: 'lnk_0' }))).toBe('repeat');
    expect(classify(hop({ at: 30_000, link: 'lnk_1' }))).toBe('counted');
    expect(classify(hop({ at: 30_000, link: 'lnk_later' }))).toBe('counted');
  });

  it('takes twenty in ten seconds for a person, and so many of two visitors', () => {
    const { classify, outcomes } = makeClassifier();
    for (let i = 0; i < 20; i++) classify(hop({ at: i * 100, link: `lnk_${i}` }));
    for (let i = 0; i < 20; i++)
      classify(hop({ at: i * 100, link: `lnk_${i}`, visitor: 'b00b00b00b00b00b' }));
    expect(new Set(outcomes())).toEqual(new Set(['counted']));
  });

  it('takes whoever looks through a mail from a hosting network for a mail scanner, from the first link on', () => {
    const columns = new VisitColumns();
    const classification = new Classification(
      columns,
      isbot,
      defaultRules,
      (source) => source === 'newsletter',
    );
    const taken = (list: readonly Partial<HopRecord>[]) => {
      const begin = columns.rows;
      for (const more of list) columns.add(hop({ source: 'newsletter', hosting: true, ...more }));
      classification.update();
      return list.map((_, i) => classification.outcome(begin + i));
    };
    const links = (more: Partial<HopRecord>, gap = 2000) =>
      ['lnk_a', 'lnk_b', 'lnk_c'].map((link, i) => ({ link, at: i * gap, visitor: 'a'.repeat(16), ...more }));
    expect(taken(links({}))).toEqual(['bot', 'bot', 'bot']);
    // People at home, other sources, one link again and again, and whoever takes their time.
    expect(taken(links({ visitor: 'b'.repeat(16), hosting: false }))).toEqual([
      'counted',
      'counted',
      'counted',
    ]);
    expect(taken(links({ visitor: 'c'.repeat(16), source: 'flyer' }))).toEqual([
      'counted',
      'counted',
      'counted',
    ]);
    expect(taken(links({ visitor: 'd'.repeat(16), link: 'lnk_a' }))).toEqual(['counted', 'repeat', 'repeat']);
    expect(taken(links({ visitor: 'e'.repeat(16) }, 5000))).toEqual(['counted', 'counted', 'counted']);
  });

  // Nested loops over all requests, told by the rule's own words.
  it('agrees with the rule as it is written, however the requests are taken', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            gap: fc.constantFrom(0, 200, 400, 9000, 11_000, 31 * minutes),
            visitor: fc.constantFrom('a', 'b'),
            link: fc.constantFrom('lnk_a', 'lnk_b'),
          }),
          { maxLength: 90 },
        ),
        fc.integer({ min: 1, max: 90 }),
        (steps, batch) => {
          let at = 0;
          const hops = steps.map(({ gap, visitor, link }) =>
            hop({ at: (at += gap), visitor: visitor.repeat(16), link }),
          );
          const columns = new VisitColumns();
          const classification = new Classification(columns, isbot, defaultRules);
          for (const [i, one] of hops.entries()) {
            columns.add(one);
            if (i % batch === 0) classification.update();
          }
          classification.update();
          const inBurst = (one: HopRecord) =>
            hops.some((last) => {
              const window = hops.filter(
                ({ visitor, at }) => visitor === last.visitor && at <= last.at && at > last.at - 10_000,
              );
              // The last of several at one moment is the last in the list.
              const upTo = window.filter((other) => hops.indexOf(other) <= hops.indexOf(last));
              return upTo.length > 20 && upTo.includes(one);
            });
          const counted: HopRecord[] = [];
          const expected = hops.map((one) => {
            if (inBurst(one)) return 'bot';
            const again = counted.some(
              (other) =>
                other.visitor === one.visitor && other.link === one.link && one.at - other.at < 30 * minutes,
            );
            if (!again) counted.push(one);
            return again ? 'repeat' : 'counted';
          });
          const found = hops.map((_, row) => classification.outcome(row));
          expect(found.map((outcome) => outcome === 'bot')).toEqual(
            expected.map((outcome) => outcome === 'bot'),
          );
          expect(found).toEqual(expected);
        },
      ),
      { numRuns: 500 },
    ));
});
