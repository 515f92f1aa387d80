import { isbot } from 'isbot';
import { describe, expect, it } from 'vitest';
import type { HopRecord } from './index.ts';
import { Classification, defaultRules, VisitColumns } from './index.ts';
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
  return (record: HopRecord) => {
    columns.add(record);
    classification.update();
    return classification.outcome(columns.rows - 1);
  };
};

describe('the classification', () => {
  it('gives the first outcome that fits', () => {
    const classification = makeClassifier();
    expect(classification(hop({ test: true, prefetch: true }))).toBe('test');
    expect(classification(hop({ prefetch: true, ua: '' }))).toBe('prefetch');
    expect(classification(hop({ ua: '' }))).toBe('bot');
    expect(classification(hop({ ua: 'Mozilla/5.0 (compatible; examplebot/2.1)' }))).toBe('bot');
    expect(classification(hop({ method: 'HEAD' }))).toBe('bot');
    expect(classification(hop({ status: 503 }))).toBe('not redirected');
    expect(classification(hop({}))).toBe('counted');
  });

  it('counts a visitor again 30 minutes after the last counted click, not after the last click', () => {
    const classification = makeClassifier();
    const at = [0, 20, 29, 30, 59, 60].map((m) => classification(hop({ at: m * minutes })));
    expect(at).toEqual(['counted', 'repeat', 'repeat', 'counted', 'repeat', 'counted']);
  });

  it('counts clicks given back after newer ones at their own time', () => {
    const classification = makeClassifier();
    const at = [600, 0, 20, 31, 590].map((m) => classification(hop({ at: m * minutes })));
    expect(at).toEqual(['counted', 'counted', 'repeat', 'counted', 'counted']);
  });

  it('takes nobody for a machine because of newer requests', () => {
    const classification = makeClassifier();
    for (let i = 0; i < 20; i++) classification(hop({ at: 600 * minutes + i * 20_000, link: `lnk_${i}` }));
    expect(classification(hop({ at: 0, link: 'lnk_back' }))).toBe('counted');
  });

  it('counts another link and another visitor by themselves', () => {
    const classification = makeClassifier();
    expect(classification(hop({}))).toBe('counted');
    expect(classification(hop({ link: 'lnk_chair' }))).toBe('counted');
    expect(classification(hop({ visitor: 'b00b00b00b00b00b' }))).toBe('counted');
  });

  it('takes more than 20 requests in 10 seconds for a machine', () => {
    const classification = makeClassifier();
    const outcomes = Array.from({ length: 25 }, (_, i) =>
      classification(hop({ at: i * 100, link: `lnk_${i}` })),
    );
    expect(outcomes.filter((outcome) => outcome === 'bot')).toHaveLength(5);
    expect(classification(hop({ at: 30_000, link: 'lnk_later' }))).toBe('counted');
  });
});
