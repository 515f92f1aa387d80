import { describe, expect, it } from 'vitest';
import type { StoredChange } from '#core/catalogue';
import type { Row, Waiting } from './database.ts';
import type { ChangeMaker } from './entries.ts';
import { afterAnswer, afterChoice, afterComparison, afterEdit, afterNews, rowOf } from './entries.ts';

let ids = 0;
const make: ChangeMaker = { changeId: () => `C${(ids += 1)}`, now: () => 1000, by: () => 'Ines' };
const record = 'lnk_saturn';
const link = {
  id: record,
  domain: 'dom_see',
  slug: 'saturn-kit',
  aliases: [],
  title: 'Saturn kit',
  destination: 'https://polehouse.example/kits/saturn',
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 1,
};
/** The link as the server has it. */
const atServer = (version: number, more: object | null = {}, by = 'Joris'): StoredChange => ({
  version,
  change: `S${version}`,
  kind: 'link',
  record,
  revision: version,
  by,
  at: 2000,
  value: more && { ...link, ...more },
});
const edit = (value: object | null, began?: Row) => ({ kind: 'link' as const, record, value, began });
/** What waits after an edit, and the row. */
const edited = (row: Row | undefined, value: object | null, began?: Row): { row: Row; waiting: Waiting } => {
  const { row: after, waiting } = afterEdit(edit(value, began), row, undefined, make);
  if (!after || !waiting) throw new Error('An edit of a live link waits.');
  return { row: after, waiting };
};
const live = rowOf(atServer(1));

describe('an edit', () => {
  it('waits on the revision after the one the server has, with what it began from', () => {
    expect(edited(live, { ...link, notes: 'mine' })).toMatchObject({
      row: { value: { notes: 'mine' }, stored: { version: 1 } },
      waiting: { from: { notes: '' }, change: { revision: 2, by: 'Ines', value: { notes: 'mine' } } },
    });
  });

  it('from a form that stood open keeps what others changed since', () => {
    const now = rowOf(atServer(2, { title: 'Theirs' }));
    expect(edited(now, { ...link, notes: 'mine' }, live).waiting.change.value).toMatchObject({
      title: 'Theirs',
      notes: 'mine',
    });
  });

  it('of the very field somebody changed since the form was opened keeps both versions', () => {
    const now = rowOf(atServer(2, { title: 'Theirs', notes: 'theirs too' }));
    const { waiting, row } = edited(now, { ...link, title: 'Mine' }, live);
    expect(waiting.theirs).toMatchObject({ version: 2, by: 'Joris', value: { title: 'Theirs' } });
    expect(row.value).toMatchObject({ title: 'Mine', notes: 'theirs too' });
    const chosen = afterChoice(
      waiting,
      atServer(2, { title: 'Theirs', notes: 'theirs too' }),
      () => 'mine',
      make,
    );
    expect(chosen.waiting?.change).toMatchObject({
      revision: 3,
      value: { title: 'Mine', notes: 'theirs too' },
    });
  });

  it('that removes what no server ever heard of leaves nothing to send', () => {
    const made = edited(undefined, link);
    expect(afterEdit(edit(null), made.row, made.waiting, make)).toEqual({
      record,
      row: { record, kind: 'link', value: null },
    });
  });
});

describe('news of the server', () => {
  it('is merged with what waits, and what waits goes on waiting on top of it', () => {
    const { row, waiting } = edited(live, { ...link, notes: 'mine' });
    expect(afterNews(atServer(2, { title: 'Theirs' }), row, waiting, make)).toMatchObject({
      row: { value: { title: 'Theirs', notes: 'mine' }, stored: { version: 2 } },
      waiting: { from: { title: 'Theirs', notes: '' }, change: { revision: 3 } },
    });
  });

  it('that says the same as what waits ends the waiting', () => {
    const { row, waiting } = edited(live, { ...link, notes: 'same' });
    const entry = afterNews(atServer(2, { notes: 'same' }), row, waiting, make);
    expect(entry).toEqual({ record, row: rowOf(atServer(2, { notes: 'same' })) });
  });

  it('waits for the answer to what is in flight: it may be in it already', () => {
    const { row, waiting } = edited(live, { ...link, notes: 'mine' });
    const flying = { ...waiting, inFlight: waiting.change };
    const built = atServer(3, { title: 'Theirs', notes: 'mine' });
    const kept = afterNews(built, row, flying, make);
    expect(kept).toEqual({ record, waiting: { ...flying, news: built } });
    // The answer to an earlier call may be stale: what was built on ours since is not forgotten.
    const answered = afterAnswer(waiting.change, kept?.waiting ?? flying, row, { taken: 2 }, true, make);
    expect(answered).toEqual({ record, row: rowOf(built) });
    const ours = { ...waiting.change, version: 2 };
    expect(afterNews(ours, row, flying, make)).toMatchObject({ row: { stored: { version: 2 } } });
  });

  it('that is older than what is here means nothing', () => {
    expect(afterNews(atServer(1, { title: 'Old' }), rowOf(atServer(2)), undefined, make)).toBeUndefined();
  });
});

describe('the answer to what was sent', () => {
  const { row, waiting } = edited(live, { ...link, notes: 'mine' });
  const now = { ...waiting, inFlight: waiting.change };

  it('makes the record live', () => {
    const entry = afterAnswer(waiting.change, now, row, { taken: 2 }, true, make);
    expect(entry).toEqual({
      record,
      row: { ...row, stored: expect.objectContaining({ version: 2, revision: 2 }) },
    });
  });

  it('lets a newer edit build on what was just taken', () => {
    const newer = afterEdit(edit({ ...link, notes: 'newer' }), row, now, make).waiting;
    if (!newer) throw new Error('It waits.');
    expect(newer.inFlight).toEqual(waiting.change);
    const entry = afterAnswer(waiting.change, newer, row, { taken: 2 }, true, make);
    expect(entry.waiting).toMatchObject({ from: { notes: 'mine' }, change: { revision: 3 } });
    expect(entry.waiting?.inFlight).toBeUndefined();
  });

  it('tells that it had come before and that others built on it since', () => {
    const newest = atServer(5, { notes: 'mine', title: 'Theirs' });
    expect(afterAnswer(waiting.change, now, row, { newest }, true, make)).toEqual({
      record,
      row: rowOf(newest),
    });
  });

  it('that is older than what was heard since counts less than that', () => {
    const gone = atServer(9, null);
    const heard = { ...now, news: gone };
    const stale = atServer(7, { title: 'Theirs', notes: 'theirs' });
    const refused = { refusal: { path: 'revision', message: '' }, theirs: stale };
    expect(afterAnswer(waiting.change, heard, row, refused, true, make).waiting?.theirs).toEqual(gone);
    expect(afterAnswer(waiting.change, heard, row, { newest: stale }, true, make)).toEqual({
      record,
      row: rowOf(gone),
    });
  });

  it('keeps a refusal with its reason', () => {
    const refusal = { path: 'slug', message: 'It is taken.' };
    const { waiting: after } = afterAnswer(waiting.change, now, row, { refusal }, true, make);
    expect(after).toEqual({ ...waiting, refusal });
  });

  it('offers the whole record to a server that lost what it builds on', () => {
    const refusal = { path: 'revision', message: 'Not known here.' };
    expect(afterAnswer(waiting.change, now, row, { refusal }, true, make)).toMatchObject({
      waiting: { change: { revision: 1, value: { notes: 'mine' } } },
    });
  });

  it('asks where it was first sent to a server that was set back since, and theirs differs', () => {
    const theirs = atServer(2, { notes: 'theirs' });
    const outcome = { refusal: { path: 'revision', message: '' }, theirs };
    const { waiting: after } = afterAnswer(waiting.change, now, row, outcome, false, make);
    expect(after).toMatchObject({ theirs, from: undefined });
  });
});

describe('a record beside a server that was set back to version 3', () => {
  it('is offered again where the server lost it', () => {
    const row = rowOf(atServer(5, { title: 'Lost there' }));
    expect(afterComparison(row, undefined, undefined, 3, make)).toMatchObject({
      waiting: { change: { revision: 1, value: { title: 'Lost there' } } },
    });
    expect(afterComparison(row, undefined, atServer(2), 3, make)).toMatchObject({
      waiting: { from: { title: 'Saturn kit' }, change: { revision: 3, value: { title: 'Lost there' } } },
    });
  });

  it('is taken where it is newer there', () => {
    const newer = { ...atServer(4, { title: 'New there' }), change: 'other' };
    expect(afterComparison(rowOf(atServer(2)), undefined, newer, 3, make)).toEqual({
      record,
      row: rowOf(newer),
    });
  });

  it('is asked about where both went on, and only where they differ', () => {
    const row = rowOf(atServer(5, { title: 'Ours' }));
    const other = { ...atServer(4, { title: 'Theirs' }), change: 'other' };
    expect(afterComparison(row, undefined, other, 3, make)?.waiting?.theirs).toEqual(other);
    const alike = { ...other, value: row.value && { ...row.value } };
    expect(afterComparison(row, undefined, alike, 3, make)).toEqual({ record, row: rowOf(alike) });
  });

  it('stays as it is where both have the same change', () => {
    expect(afterComparison(live, undefined, atServer(1), 3, make)).toBeUndefined();
  });
});
