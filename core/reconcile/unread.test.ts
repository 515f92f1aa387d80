import { describe, expect, it } from 'vitest';
import type { Decision, PostbackProfile, Report } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { JournalRecord, PostbackRecord } from '#core/visits';
import { octoberReport as report, reportRow as row } from '../conversions/testing/rows.ts';
import { classified } from '../visits/testing/classified.ts';
import { hopRecord, postbackRecord } from '../visits/testing/records.ts';
import { balanceOf, reconcile } from './index.ts';
import { plainNetwork, tieredProgram } from './testing/books.ts';

/** A network that was taught no words for states. */
const networkOf = (id: string, more: Partial<PostbackProfile> = {}) =>
  plainNetwork(id, { statuses: {}, ...more });
const noon = Date.parse('2026-10-12T12:00:00Z');
const hour = 3_600_000;
const links = [
  { id: 'lnk_kit', network: 'net_h' },
  { id: 'lnk_chart', network: 'net_k' },
];
const heard = (seq: number, fields: Record<string, string>, more: Partial<PostbackRecord> = {}) =>
  postbackRecord({ seq, at: noon + seq * hour, query: new URLSearchParams(fields).toString(), ...more });
const accepted = (id: string, kind: Decision['kind'] = 'accept'): Decision => ({
  id: 'dec_1',
  case: id,
  kind,
  reason: 'looked at it',
  at: noon,
});

/** The first of a month is paid 2.00, each after it 3.00. */
const tiered = tieredProgram('net_h', 2);

const reckoned = (
  journal: readonly JournalRecord[],
  more: {
    readonly profile?: Partial<PostbackProfile>;
    readonly reports?: readonly Report[];
    readonly decisions?: readonly Decision[];
  } = {},
) => {
  const found = reconcile({
    ...classified(journal),
    networks: [networkOf('net_h', more.profile), networkOf('net_k')],
    programs: [],
    links,
    reports: more.reports ?? [],
    decisions: more.decisions ?? [],
  });
  const { conversions, commission } = balanceOf(found.units, { network: 'net_h', month: '2026-10' });
  return {
    ...found,
    kinds: found.cases.map(({ kind }) => kind).sort(),
    count: [conversions.ours, conversions.theirs],
    money: commission.get('EUR'),
  };
};

describe('a postback that cannot be read', () => {
  it.each([
    [{ amount: '12,34' }, 'amount not read', { decimal: ',' }, 1234],
    [{ amount: '€12.34' }, 'amount not read', { decimal: '.' }, 1234],
    [{ amount: '1.234,56' }, 'amount not read', { decimal: ',' }, 123_456],
    [
      { amount: '9.00', status: 'fakturiert' },
      'state not read',
      { statuses: { fakturiert: 'approved' } },
      900,
    ],
    [{ amount: '9.00', currency: 'XQZ' }, 'currency not read', { currencies: { xqz: 'EUR' } }, 900],
  ] as const)(
    '%o is a case and no conversion, until the network’s way is taught',
    (fields, kind, profile, minor) => {
      const journal = [heard(1, { txn: 'A1', ...fields })];
      const before = reckoned(journal);
      expect([before.kinds, before.ledger]).toEqual([[kind], []]);
      expect(before.cases[0]).toMatchObject({ postback: 1, network: 'net_h', month: '2026-10' });
      expect(before.cases[0]?.because).toContain(Object.values(fields).at(-1));
      // The past is read anew.
      const after = reckoned(journal, { profile });
      expect(after.ledger.map(({ amount, currency }) => [amount, currency])).toEqual([[minor, 'EUR']]);
      expect(after.kinds).toEqual(['placeholder not filled']);
    },
  );

  it('and is sent again is one case, and one answer', () => {
    const journal = [heard(1, { txn: 'A1', amount: 'twelve' }), heard(2, { txn: 'A1', amount: 'twelve' })];
    const { kinds, cases } = reckoned(journal);
    expect(kinds).toEqual(['amount not read']);
    expect(reckoned(journal, { decisions: [accepted(cases[0]?.id ?? '')] }).ledger).toMatchObject([
      { amount: null, repeats: 1 },
    ]);
  });

  it('is worth what it says, where only its state is a riddle', () =>
    expect(reckoned([heard(1, { txn: 'A1', amount: '9.00', status: 'fakturiert' })]).cases[0]).toMatchObject({
      worth: 900,
      currency: 'EUR',
    }));

  it('counts without what cannot be read once a person says so, and by nothing else', () => {
    const journal = [heard(1, { txn: 'A1', amount: 'twelve' })];
    const id = reckoned(journal).cases[0]?.id ?? '';
    expect(reckoned(journal, { decisions: [accepted(id, 'ask')] }).ledger).toEqual([]);
    const { ledger, cases } = reckoned(journal, { decisions: [accepted(id)] });
    expect(ledger).toMatchObject([{ txn: 'A1', amount: null, status: 'pending' }]);
    expect(cases.find((one) => one.id === id)?.decision?.kind).toBe('accept');
  });

  it('changes nothing of the conversion it may belong to', () => {
    const { ledger, kinds } = reckoned([
      heard(1, { txn: 'A1', amount: '9.00' }),
      heard(2, { txn: 'A1', amount: '9,50', status: 'approved' }),
    ]);
    expect(ledger).toMatchObject([{ amount: 900, status: 'pending' }]);
    expect(kinds).toContain('amount not read');
  });

  it('is why a report row stands alone, and then no resending is asked for', () => {
    const { kinds, money, count } = reckoned([heard(1, { txn: ' a1', amount: '12,34' })], {
      reports: [report(1, [row('A1', '2026-10-12', 1234)])],
    });
    expect(kinds).toEqual(['amount not read', 'placeholder not filled']);
    expect(count).toEqual([0, 1]);
    expect(money).toMatchObject({
      ours: 0,
      theirs: 1234,
      unexplained: 0,
      pieces: [{ cause: 'not read', value: 1234 }],
    });
  });

  it('from a page of one’s own is nobody’s word, and no case', () =>
    expect(reckoned([heard(1, { txn: 'A1', amount: '12,34' }, { unverified: 'pixel' })]).cases).toEqual([]));

  it('from an unknown sender is asked about all the same, and then about its sender', () => {
    const journal = [heard(1, { txn: 'A1', amount: '12,34' }, { unverified: 'sender' })];
    expect(reckoned(journal).kinds).toEqual(['amount not read']);
    expect(reckoned(journal, { profile: { decimal: ',' } }).kinds).toEqual(['not verified']);
  });
});

describe('a time more than a day ahead', () => {
  it('is asked about, and the conversion stands when it came', () => {
    const at = new Date(noon + 40 * 24 * hour).toISOString();
    const { cases, ledger } = reckoned([heard(1, { txn: 'A1', amount: '9.00', at })]);
    expect(ledger).toMatchObject([{ at: noon + hour, ahead: noon + 40 * 24 * hour }]);
    expect(cases.find(({ kind }) => kind === 'time ahead')).toMatchObject({ month: '2026-10', worth: 900 });
    const near = new Date(noon + 24 * hour).toISOString();
    expect(reckoned([heard(1, { txn: 'A1', amount: '9.00', at: near })]).kinds).not.toContain('time ahead');
  });
});

describe('money a postback takes back', () => {
  const sale = heard(1, { txn: 'A1', amount: '35.00', status: 'approved' });
  const back = heard(2, { txn: 'A1', amount: '-5.00', status: 'approved' });

  it('waits for nobody where the report takes it back too', () => {
    const { kinds, money, count } = reckoned([sale, back], {
      reports: [report(1, [row('A1', '2026-10-12', 3500), row('A1', '2026-10-14', -500)])],
    });
    expect(kinds).toEqual(['placeholder not filled']);
    expect(count).toEqual([1, 1]);
    expect(money).toMatchObject({ ours: 3000, theirs: 3000, unexplained: 0 });
  });

  it('is a case where two readings are left, and counts by the one a person takes', () => {
    const journal = [sale, back, heard(9, { txn: 'A1', amount: '-5.00', status: 'approved' })];
    const before = reckoned(journal);
    const one = before.cases.find(({ kind }) => kind === 'doubtful amount');
    expect(one?.proposal).toMatchObject({ does: 'Take it as 25.00 EUR', otherwise: 'It is the same refund' });
    expect([one?.worth, before.money?.ours]).toEqual([-500, 3000]);
    expect(reckoned(journal, { decisions: [accepted(one?.id ?? '')] }).money?.ours).toBe(2500);
    expect(reckoned(journal, { decisions: [accepted(one?.id ?? '', 'write off')] }).money?.ours).toBe(3000);
    // Yet another one is asked about anew.
    const third = heard(20, { txn: 'A1', amount: '-5.00', status: 'approved' });
    const later = reckoned([...journal, third], { decisions: [accepted(one?.id ?? '')] });
    expect(later.money?.ours).toBe(3000);
    expect(later.cases.filter(({ kind }) => kind === 'doubtful amount').map((c) => c.decision)).toEqual([
      undefined,
    ]);
  });

  it('without its sale takes no place among those that tiers count', () => {
    const books = {
      ...classified([back, heard(3, { txn: 'A2' }), heard(4, { txn: 'A3' })]),
      networks: [networkOf('net_h')],
      programs: [tiered],
      links,
      reports: [],
      decisions: [],
    };
    const priced = reconcile({
      ...books,
      reports: [
        report(
          1,
          ['A1', 'A2', 'A3'].map((txn) => row(txn, '2026-10-12', 100, { program: tiered.name })),
        ),
      ],
    }).units.flatMap(({ conversion, ours }) => (ours?.priced ? [[conversion?.txn, ours.amount]] : []));
    expect(priced).toEqual([
      ['A2', 200],
      ['A3', 300],
    ]);
  });

  it('without its sale is money and no conversion, asked about until a report takes it back too', () => {
    const alone = reckoned([back]);
    expect([alone.count, alone.money?.ours]).toEqual([[0, 0], -500]);
    expect(alone.kinds).toEqual(['refund']);
    const { units, money } = reckoned([back], { reports: [report(1, [row('A1', '2026-10-14', -500)])] });
    expect(units).toHaveLength(1);
    expect(money).toMatchObject({ ours: -500, theirs: -500, unexplained: 0 });
  });
});

describe('a click', () => {
  const [own, foreign] = [
    clickId(noon - hour, new Uint8Array(10).fill(7)),
    clickId(noon - hour, new Uint8Array(10).fill(9)),
  ];
  const hops = [
    hopRecord({ seq: 1, at: noon - hour, click: own, link: 'lnk_kit' }),
    hopRecord({ seq: 2, at: noon - hour, click: foreign, link: 'lnk_chart', visitor: '00000000000000b2' }),
  ];
  const levels = (click: string) => {
    const { units, kinds } = reckoned([...hops, heard(3, { txn: 'A1', amount: '9.00', click })]);
    return [units[0]?.match.level, units[0]?.link, kinds];
  };

  it('of another network’s link earns nobody anything, and is a case of its own', () => {
    expect(levels(own)).toEqual(['exact', 'lnk_kit', []]);
    expect(levels(foreign)).toEqual(['another network', '', ['click of another network']]);
    expect(levels(foreign.slice(0, 20))).toEqual(['another network', '', ['click of another network']]);
  });

  it('that is no longer its link’s, since the link led to that network once, is exact still', () => {
    const { units } = reconcile({
      ...classified([...hops, heard(3, { txn: 'A1', amount: '9.00', click: foreign })]),
      networks: [networkOf('net_h'), networkOf('net_k')],
      programs: [],
      links: links.map((link) => ({ ...link, alsoOf: ['net_h'] })),
      reports: [],
      decisions: [],
    });
    expect(units[0]?.match.level).toBe('exact');
  });

  it('cut too short is said to be that', () =>
    expect(levels(own.slice(0, 11))).toEqual(['too short', '', ['too short']]));

  it.each([12, 15, 19, 20, 26])(
    'cut to %i characters joins its postback and its report row alike',
    (kept) => {
      const rows = [row('', '2026-10-12', 900, { click: own.slice(0, kept), key: 'row 1' })];
      for (const click of [own, own.slice(0, kept), own.slice(0, kept).toLowerCase()])
        for (const txn of ['', 'A1']) {
          const { units } = reckoned([...hops, heard(3, { txn, amount: '9.00', click })], {
            reports: [report(1, rows)],
          });
          expect(units.map(({ conversion, reported }) => [conversion?.txn, reported?.key])).toEqual([
            [txn, 'row 1'],
          ]);
        }
    },
  );
});
