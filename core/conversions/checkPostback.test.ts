import { describe, expect, it } from 'vitest';
import { postbackRecord } from '../visits/testing/records.ts';
import {
  checkPostback,
  isPlaceholder,
  learnPostback,
  placeholdersIn,
  placeholderStyles,
  readPostback,
  withLearned,
} from './index.ts';

const click = '01M84BDPSKXE4HN0RD2V6W3PBC';
const postback = {
  key: 'a'.repeat(24),
  pixelKey: 'b'.repeat(24),
  placeholders: { click: '{s1}', amount: '{payout}', status: '{st}', txn: '{oid}' },
  fields: { click: 's1', amount: 'payout', status: 'st' },
  statuses: { bezahlt: 'paid' as const },
  amounts: 'replace' as const,
};
const checked = (query: string) =>
  Object.fromEntries(
    checkPostback(readPostback(postbackRecord({ query }), postback, 'EUR'), { postback }).map(
      ({ field, ...check }) => [field, check],
    ),
  );

describe('a postback held against what was asked for', () => {
  it('is good where each value came and can be read', () =>
    expect(checked(`s1=${click}&payout=13.83&st=bezahlt&txn=T1`)).toEqual({
      click: { state: 'good', words: click },
      amount: { state: 'good', words: '13.83' },
      status: { state: 'good', words: 'bezahlt means paid.' },
      txn: { state: 'good', words: 'T1' },
    }));

  it('names what did not come, was not replaced, or cannot be read', () =>
    expect(checked('s1={s1}&payout=12,34')).toMatchObject({
      click: { state: 'bad', words: expect.stringContaining('did not replace') },
      amount: { state: 'bad' },
      status: { state: 'absent' },
      txn: { state: 'absent' },
    }));

  it('asks for the meaning of a word nobody taught', () =>
    expect(checked(`s1=${click}&st=Fakturiert`)['status']).toMatchObject({
      state: 'bad',
      unknownWord: 'fakturiert',
    }));

  it('says how much of a click ID is kept, and what is none of ours', () => {
    expect(checked(`s1=${click.slice(0, 20)}`)['click']).toMatchObject({ state: 'good', kept: 20 });
    expect(checked(`s1=${click.slice(0, 8)}`)['click']).toMatchObject({ state: 'bad' });
    expect(checked('s1=a81f-2291-7777')['click']).toMatchObject({ state: 'bad' });
  });

  it('shows what came unasked too', () =>
    expect(checked(`s1=${click}&event=lead`)['event']).toEqual({ state: 'good', words: 'lead' }));
});

describe('placeholders in a style', () => {
  it.each(placeholderStyles)('%s are placeholders, and learnt for what they are', (style) => {
    const written = placeholdersIn(style, 's2');
    expect(Object.values(written).filter((text) => !isPlaceholder(text))).toEqual([]);
    const query = Object.entries(written).map(([field, text]) => `${field}=${text}`);
    const learned = learnPostback(query.join('&'), 's2');
    expect(Object.fromEntries(learned.map(({ field, value }) => [field, value]))).toEqual(written);
    expect(withLearned({ placeholders: {}, fields: {}, statuses: {} }, learned)).toEqual({
      placeholders: written,
      fields: {},
      statuses: {},
    });
  });

  it('name the click after its slot, unless that has only a place', () => {
    expect(placeholdersIn('{*}', 'sub1').click).toBe('{sub1}');
    expect(placeholdersIn('{*}', '/3').click).toBe('{subid}');
  });
});
