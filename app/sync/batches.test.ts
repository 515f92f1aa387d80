import { describe, expect, it } from 'vitest';
import type { RecordKind } from '#core/catalogue';
import { changesPerCall } from '#core/catalogue';
import { bytesOf, heldBackBy, nextBatch } from './batches.ts';
import type { Row, Waiting } from './database.ts';

const waits = (record: string, kind: RecordKind, value: object | null, at = 0): Waiting => ({
  record,
  from: null,
  change: { change: record, kind, record, revision: 1, by: '', at, value: value && { ...value } },
});
const byRecord = (...list: readonly Waiting[]) => new Map(list.map((w) => [w.record, w]));
const noRows: ReadonlyMap<string, Row> = new Map();
const sent = (waiting: ReadonlyMap<string, Waiting>, bytes = 1e6, stays = (_: string) => false) =>
  nextBatch(noRows, waiting, bytes, stays).map(({ record }) => record);

describe('what goes with the next call', () => {
  it('goes after what it rests on, and what is removed goes last', () => {
    const all = byRecord(
      waits('lnk_gone', 'link', null),
      waits('dom_gone', 'domain', null),
      waits('lnk_a', 'link', { domain: 'dom_a', network: 'net_a' }),
      waits('net_a', 'network', {}),
      waits('dom_a', 'domain', {}),
    );
    expect(sent(all)).toEqual(['dom_a', 'net_a', 'lnk_a', 'lnk_gone', 'dom_gone']);
  });

  it('is as much as fits into so many bytes as they are sent, and one at least', () => {
    const links = Array.from({ length: 20 }, (_, n) =>
      waits(`lnk_${n}`, 'link', { notes: 'ø'.repeat(500) }, n),
    );
    const one = links[0] ? bytesOf(links[0].change) : 0;
    expect(one).toBeGreaterThan(1000);
    expect(sent(byRecord(...links), one * 3.5)).toHaveLength(3);
    expect(sent(byRecord(...links), 1)).toHaveLength(1);
  });

  it('is never more changes than a call may carry', () => {
    const links = Array.from({ length: changesPerCall + 5 }, (_, n) => waits(`lnk_${n}`, 'link', {}, n));
    expect(sent(byRecord(...links), Infinity)).toHaveLength(changesPerCall);
  });

  it('leaves out what is refused, and what rests on it, and nothing else', () => {
    const refused = { ...waits('dom_a', 'domain', {}), refusal: { path: 'host', message: 'No.' } };
    const all = byRecord(
      refused,
      waits('lnk_a', 'link', { domain: 'dom_a' }),
      waits('lnk_b', 'link', { domain: 'dom_b' }),
      waits('lnk_c', 'link', { domain: 'dom_b' }),
    );
    expect(sent(all, 1e6, (record) => record === 'lnk_c')).toEqual(['lnk_b']);
    const [, held] = [...all.values()];
    expect(held && heldBackBy(held, noRows, all)).toBe('dom_a');
  });

  it('does not hold a link back by an edit that was refused of a domain the server has', () => {
    const refused = { ...waits('dom_a', 'domain', {}), refusal: { path: 'host', message: 'No.' } };
    const stored = { revision: 1, version: 1, change: 'x', by: '', at: 0 };
    const rows = new Map<string, Row>([['dom_a', { record: 'dom_a', kind: 'domain', value: {}, stored }]]);
    const all = byRecord(refused, waits('lnk_a', 'link', { domain: 'dom_a' }));
    expect(nextBatch(rows, all, 1e6, () => false).map(({ record }) => record)).toEqual(['lnk_a']);
  });
});
