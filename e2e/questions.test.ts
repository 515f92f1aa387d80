import { spawnSync } from 'node:child_process';
import type { Browser, Page } from 'playwright-core';
import { parse } from 'devalue';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Cost, Decision, Rate, Report } from '#core/catalogue';
import type { Pays, PaysQuestion, QueryName } from '#core/queries';
import { answerAsJson, answersFrom, queries } from '#core/queries';
import { fillSeason } from '../demo/fill.ts';
import { builtFile } from '../server/built.ts';
import { call, changeOf, sendChanges } from '../server/client.ts';
import { openDataset } from '../server/dataFolder.ts';
import { readConfig } from '../server/config.ts';
import type { Running } from '../server/testing/process.ts';
import { freePort, freshFolder } from '../server/testing/process.ts';
import { freshPerson, startBrowser } from './browser.ts';
import { openApp, startServer } from './desk.ts';

type Question = readonly [QueryName, ...unknown[]];

const now = Date.UTC(2026, 10, 23, 15);
const dataDir = freshFolder();
let browser: Browser;
let server: Running;
let page: Page;

/** Whole days and the same days by label, as a network's report of clicks has both. */
const clickReport = (network: string): Report => ({
  id: 'rep_both',
  network,
  batch: 'both',
  file: 'clicks.csv',
  at: now,
  from: '2026-10-01',
  until: '2026-10-31',
  rows: [],
  clicks: Array.from({ length: 31 }, (_, i) => `2026-10-${String(i + 1).padStart(2, '0')}`).flatMap((day) => [
    { day, label: '', clicks: 9 },
    { day, label: 'newsletter', clicks: 4 },
  ]),
});

/** One of each kind, and one in another currency. */
const costs: Cost[] = (
  [
    ['newsletter', 'all', '120', 'EUR'],
    ['saturn-guide', 'day', '9', 'EUR'],
    ['video-12', 'click', '0.02', 'USD'],
    ['moon-guide', 'thousand', '15', 'EUR'],
    ['gear-list', 'share', '20', 'EUR'],
    ['nobody', 'all', '9.99', 'EUR'],
  ] as const
).map(([source, per, amount, currency], i) => ({
  id: `cst_${i}`,
  of: { kind: 'source', source },
  ...{ per, amount, currency, from: '2026-09-01', note: '' },
}));
const rates: Rate[] = (
  [
    ['USD', '0.86'],
    ['JPY', '0.0055'],
    ['GBP', '1.14'],
  ] as const
).map(([from, rate]) => ({
  id: `rat_${from.toLowerCase()}`,
  ...{ from, to: 'EUR', day: '2026-08-01', rate, source: 'my bank' },
}));

beforeAll(async () => {
  const port = await freePort();
  await fillSeason(readConfig({ DATA_DIR: dataDir, PORT: String(port) }), 6000, now);
  server = await startServer({ dataDir, port });
  const data = await openDataset(dataDir);
  const ask = answersFrom(data);
  const decide = (n: number, kind: Decision['kind'], of: string): Decision => ({
    id: `dec_${n}`,
    case: of,
    kind,
    reason: 'so it was',
    at: now + n,
  });
  const { reconciled, records } = data;
  const [domain] = records.domains;
  const figures = ask.closing('net_osprenet', '2026-09');
  const answer = await sendChanges(server, [
    // Everything of a person's own that an answer could forget.
    changeOf(
      'settings',
      {
        id: 'settings',
        currency: 'EUR',
        classification: {
          repeatMinutes: 45,
          burstRequests: 20,
          burstSeconds: 10,
          ownByTest: true,
          robots: ['iPad', 'Firefox/1'],
        },
      },
      2,
    ),
    changeOf('report', clickReport('net_harrowmead')),
    ...reconciled.cases
      .slice(0, 12)
      .map(({ id }, i) =>
        changeOf('decision', decide(i, (['accept', 'ask', 'write off'] as const)[i % 3] ?? 'ask', id)),
      ),
    changeOf('month', { ...figures, id: 'mon_a', at: now - 20 * 86_400_000, checksum: '0'.repeat(64) }),
    changeOf('payment', {
      id: 'pay_a',
      network: 'net_harrowmead',
      day: '2026-11-02',
      amount: 5000,
      currency: 'EUR',
      note: '',
    }),
    ...costs.map((cost) => changeOf('cost', cost)),
    ...rates.map((rate) => changeOf('rate', rate)),
    // A second domain in another zone: whose days are ours must not depend on who asks.
    changeOf('domain', { ...domain, id: 'dom_a', host: 'go.nightledge.localhost', zone: 'Asia/Tokyo' }),
  ]);
  expect(answer.refused).toEqual([]);

  browser = await startBrowser();
  const context = await freshPerson(browser);
  await context.addInitScript(() => {
    const Native = window.Worker;
    window.Worker = class extends Native {
      constructor(url: string | URL, options?: WorkerOptions) {
        super(url, options);
        if (String(url).includes('journal')) Object.assign(window, { journalWorker: this });
      }
    };
  });
  page = await openApp(context, server, '/reconcile/net_harrowmead/2026-10');
  await page.getByRole('row', { name: /^Conversions/ }).waitFor();
});
afterAll(async () => {
  await browser.close();
  await server.stop();
});

/** Asks the worker of the application, by the messages its window sends it, and gives the answers as JSON. */
const askWorker = (asked: readonly Question[]): Promise<string[]> =>
  page.evaluate(async (questions) => {
    const { journalWorker } = window as unknown as { journalWorker: Worker };
    const ask = (path: readonly unknown[]) =>
      new Promise<unknown>((resolve) => {
        const [name, ...rest] = path;
        const id = `test-${Math.random()}`;
        const hear = ({ data }: MessageEvent<{ id: string; value: unknown }>) => {
          if (data.id !== id) return;
          journalWorker.removeEventListener('message', hear);
          resolve(data.value);
        };
        journalWorker.addEventListener('message', hear);
        journalWorker.postMessage({
          id,
          type: 'APPLY',
          path: [name],
          argumentList: rest.map((value) => ({ type: 'RAW', value })),
        });
      });
    const answers: string[] = [];
    for (const question of questions)
      answers.push(
        JSON.stringify((await ask(question)) ?? null, (_, value: unknown) =>
          value instanceof Map ? Object.fromEntries(value) : value instanceof Uint8Array ? [...value] : value,
        ),
      );
    return answers;
  }, asked);

/** Asks the command, all questions at once. */
const askCommand = (asked: readonly Question[]): string[] => {
  const { status, stdout, stderr } = spawnSync(
    process.execPath,
    [builtFile('query.js'), '--data', dataDir, '-'],
    {
      input: asked.map((question) => `${JSON.stringify(question)}\n`).join(''),
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    },
  );
  expect([status, stderr]).toEqual([0, '']);
  return stdout.trimEnd().split('\n');
};

/** Asks the server, as a browser does that does not hold the whole journal. */
const askServer = async (asked: readonly Question[]): Promise<string[]> => {
  const answers: string[] = [];
  for (const [question, ...args] of asked) {
    const { body } = await call(server, 'POST', '/ask', { question, args });
    answers.push(answerAsJson(parse(body) ?? null));
  }
  return answers;
};

describe('whoever asks', () => {
  it('every question, a screen by its worker, a command by itself and the server, hears the same', async () => {
    const data = await openDataset(dataDir);
    const ask = answersFrom(data);
    const networks = data.records.networks.map(({ id }) => id);
    const link = data.records.links.find(({ id }) => ask.recent(id, 1).conversions.length > 0)?.id ?? '';
    const click = ask.recent(link, 1).conversions[0]?.click ?? '';
    const txn = ask.recent(link, 1).conversions[0]?.txn ?? '';
    const cases = [...new Map(data.reconciled.cases.map((one) => [one.kind, one])).values()];
    const [program] = data.records.programs;
    const questions: Question[] = [
      ...networks.flatMap((network): Question[] => {
        const scope = { network, month: '2026-10' };
        return [
          ['months', network],
          ['parts', network, '2026-10'],
          ['balance', scope],
          ['balance', { network }],
          ['balance', { ...scope, source: 'newsletter' }],
          ['queue', scope],
          ['claim', scope],
          ['ledger', scope, '', 100_000],
          ['closing', network, '2026-10'],
          ['adjustments', network],
          ['earnedByTag', network, '2026-10'],
          ['owed', network, '2026-11-23'],
          ['firedTwice', network],
          ['lastByOldKey', network],
          ['newestClick', network],
          ['postbacksOf', network, 50],
          ...[
            ['clicks', ask.balance(scope).clicks] as const,
            ['conversions', ask.balance(scope).conversions] as const,
            ...ask.balance(scope).commission.map(({ currency, bridge }) => [currency, bridge] as const),
          ].flatMap(([about, { pieces }]) =>
            pieces.map(({ cause }): Question => ['pieceOf', scope, about, cause, 30]),
          ),
        ];
      }),
      ['balance', { network: program?.network, month: '2026-10', program: program?.id }],
      [
        'balance',
        { network: data.records.links.find(({ id }) => id === link)?.network, month: '2026-10', link },
      ],
      ...cases.flatMap((one): Question[] => [
        ['evidence', one.id],
        ['casesOfKind', one.kind, {}, 100],
        ['safeCases', one.kind, { network: one.network }],
      ]),
      ['audits', 10],
      ['changesOfDays', { from: '2026-08-01', to: '2026-11-22', where: [], now }],
      ['clickOfTransaction', txn],
      ['figures', now, 30],
      ['heard', 'net_harrowmead', now - 60 * 86_400_000, now],
      ['history', data.records.links[0]?.id],
      ['journey', click],
      ['journey', 'nobody'],
      ['judged', { source: 'bought-b', from: '2026-10-24', to: '2026-11-22' }],
      ['judgedRequests', { source: 'bought-b', from: '2026-10-24', to: '2026-11-22' }],
      ['lastPostbacks'],
      ['onward', 'lnk_firstnight', now - 30 * 86_400_000],
      ['onward', link, now - 30 * 86_400_000],
      ['recent', link, 20],
      ['samples', link, 500],
      ['passedAlong', 'bought-a'],
      ['passedAlong', 'bought-b'],
      ['sources', 0],
      [
        'traffic',
        { by: 'source', from: '2026-10-24', to: '2026-11-22', where: [{ of: 'device', values: ['phone'] }] },
      ],
      ['traffic', { by: 'destination', from: '2026-10-24', to: '2026-11-22', where: [], show: 'bot' }],
      ['requestFile', { from: '2026-11-20', to: '2026-11-20', where: [] }, 'ndjson'],
      ['newestConversions', { from: '2026-10-24', to: '2026-11-22', where: [] }, 20],
      ['newestRequests', { from: '2026-10-24', to: '2026-11-22', where: [] }, 20],
      ['pages', 0],
      ['step', 'none'],
      ['tape', 60],
      ['timeSpent', { from: '2026-10-24', to: '2026-11-22', where: [] }],
      ['traces'],
      ['use', link, now - 30 * 86_400_000],
      ['overdue', '2026-12-31'],
      ['queueLines', { network: 'net_osprenet', month: '2026-10' }],
      [
        'profitByDay',
        {
          by: 'source',
          value: 'flyer',
          from: '2026-08-25',
          to: '2026-11-22',
          where: [],
          currency: 'EUR',
          now,
        },
      ],
      [
        'whatBecame',
        {
          choice: {
            ...{
              id: 'chc_flyer',
              day: '2026-11-01',
              made: 'cut',
              by: 'source',
              value: 'flyer',
              name: 'flyer',
            },
            ...{
              where: [],
              from: '2026-08-25',
              to: '2026-11-01',
              currency: 'EUR',
              visitors: 100,
              cost: 9,
              profit: -9,
            },
            note: '',
          },
          now,
        },
      ],
      [
        'earnedBands',
        { by: 'source', from: '2026-08-25', to: '2026-11-22', where: [], currency: 'EUR', now },
      ],
      ['whatPays', { by: 'source', from: '2026-08-25', to: '2026-11-22', where: [], currency: 'EUR', now }],
      ['writersMonths'],
      ['writers', { month: '2026-10', currency: 'EUR', now }],
      ['promotions', { currency: 'EUR', now }],
      ['promotionPage', { id: 'prm_starnights', currency: 'EUR', now }],
      ['whichBranch', { link, from: '2026-08-25', to: '2026-11-22', currency: 'EUR', now }],
      ['waiting'],
    ];
    expect(Object.keys(queries).filter((name) => !questions.some(([asked]) => asked === name))).toEqual([]);

    const byCommand = askCommand(questions);
    for (const answers of [await askWorker(questions), await askServer(questions)])
      for (const [i, question] of questions.entries())
        expect([question, JSON.parse(answers[i] ?? '')]).toEqual([question, JSON.parse(byCommand[i] ?? '')]);
    expect(byCommand.length).toBe(questions.length);
    // And the answers say something: the person's own robots count, and days with labels are not counted twice.
    expect(ask.balance({ network: 'net_harrowmead', month: '2026-10' }).clicks).toMatchObject({
      theirs: 31 * 9,
      reported: true,
    });
    expect(byCommand.filter((text) => text === 'null' || text === '[]' || text === '{}').length).toBeLessThan(
      questions.length / 4,
    );
    expect(answerAsJson(ask.waiting())).toBe(byCommand.at(-1));
  });

  it('what pays, the decide command and the question say the same, and the command ends by it', async () => {
    const data = await openDataset(dataDir);
    const days = { from: '2026-08-25', to: '2026-11-22' };
    const decide = (...args: string[]) => {
      const { status, stdout, stderr } = spawnSync(
        process.execPath,
        [builtFile('decide.js'), '--data', dataDir, '--from', days.from, '--to', days.to, ...args],
        { encoding: 'utf8' },
      );
      return { status, stdout, stderr };
    };
    const { status, stdout } = decide('--json');
    const said = JSON.parse(stdout) as PaysQuestion & Pays;
    const asked = { by: 'source', ...days, where: [], currency: 'EUR', now: said.now } as const;
    expect(JSON.parse(answerAsJson({ ...asked, ...answersFrom(data).whatPays(asked) }))).toEqual(said);
    expect(said.missing).toEqual([]);
    const cut = said.lines.filter(({ verdict }) => verdict === 'cut').map(({ value }) => value);
    expect([status, cut]).toEqual([1, ['saturn-guide']]);
    expect(decide('--where', 'source!=saturn-guide').status).toBe(0);
    expect(decide('--by', 'colour')).toMatchObject({
      status: 2,
      stderr: expect.stringMatching(/^fernhop: colour is nothing that visits are told apart by\./),
    });
  });

  it('the balance of a month, the table of the command and the table on the screen show the same', async () => {
    const { stdout } = spawnSync(
      process.execPath,
      [
        builtFile('reconcile.js'),
        '--data',
        dataDir,
        '--network',
        'Harrowmead',
        '--month',
        '2026-10',
        '--json',
      ],
      { encoding: 'utf8' },
    );
    const { lines } = JSON.parse(stdout) as { lines: { what: string; ours: string; theirs: string }[] };
    for (const [what, row] of [
      ['clicks', 'Clicks'],
      ['conversions', 'Conversions'],
    ] as const) {
      const cells = page.getByRole('row', { name: new RegExp(`^${row}`) }).getByRole('cell');
      const line = lines.find((one) => one.what === what);
      expect(
        [await cells.nth(0).innerText(), await cells.nth(1).innerText()].map((text) =>
          text.replaceAll(',', ''),
        ),
      ).toEqual([line?.ours, line?.theirs]);
    }
  });
});
