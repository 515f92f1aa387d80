import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Change, PostbackField, RecordKind, Report } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';
import { formOfName, makeLinkReader, makeLooker, readArticles, usualArticles } from '#core/articles';
import { clickId } from '#core/hop';
import { pageRecord } from '#core/where-used';
import { Journal } from '../server/journal/index.ts';
import type { ServerAddress } from '../server/client.ts';
import { changeOf, sendChanges } from '../server/client.ts';
import type { Config } from '../server/config.ts';
import { run } from '../server/run.ts';
import { booksPath, kinds, siteHost, sitePages, writeBooks } from '../standins/index.ts';
import type { Season } from './season/index.ts';
import { importReport, makeSeason } from './season/index.ts';
import { writeArticles } from './writeArticles.ts';

const day = 86_400_000;
const days = 90;
/** Everything the people of Nightledge made before the season began, as changes. */
const changesOf = ({ made }: Season): Change[] => {
  const by = 'Ines';
  const all = <T extends { readonly id: string }>(kind: RecordKind, list: readonly T[]) =>
    list.map((value) => changeOf(kind, value, 1, by));
  return [
    ...all('settings', [made.settings]),
    ...all('domain', [made.domain]),
    ...all('network', made.networks),
    ...all('program', made.programs),
    ...all('account', made.accounts),
    ...all('link', made.links),
    ...all('product', made.products),
    ...all('kit', made.kits),
    ...all('source', made.sources),
    ...all('cost', made.costs),
    ...all('rate', made.rates),
    ...all('promotion', made.promotions),
  ];
};

/** The reports of the months that are over, as records; those of the running month are left for a person to import. */
const importReports = (season: Season, end: number): Change[] => {
  const running = new Date(end - day).toISOString().slice(0, 7);
  const networks = new Map(season.made.networks.map((network) => [network.id, network]));
  const changes: Change[] = [];
  const earlier: Report[] = [];
  for (const [i, file] of season.reports.entries()) {
    const network = networks.get(file.network);
    if (!network || file.name.includes(running)) continue;
    const read = importReport(file, network, earlier, `demo${String(i).padStart(3, '0')}`, end - day + i);
    networks.set(network.id, { ...network, report: read.profile });
    earlier.push(...read.parts);
    changes.push(...read.parts.map((part) => changeOf('report', part, 1, 'Ines')));
  }
  return [...[...networks.values()].map((network) => changeOf('network', network, 2, 'Ines')), ...changes];
};

/** What stood in the articles and on the pages of the site when they were read last, a day before the end. */
const readPages = (
  { made }: Season,
  articles: string,
  end: number,
  { port, standins }: { readonly port: number; readonly standins: number },
): Change[] => {
  const { networks, programs, accounts, links, products, domain } = made;
  const reader = makeLinkReader({
    ...{ networks, programs, accounts, links, products, domains: [domain] },
    ...{ port: String(port), dead: new Map(), now: end },
  });
  const looker = makeLooker(reader, usualArticles);
  const readAt = end - day;
  const files = readdirSync(articles).flatMap((file) => {
    const read = formOfName(file) && readArticles(`articles/${file}`, readFileSync(join(articles, file)));
    const [article] = read?.ok ? read.read.articles : [];
    return article
      ? [
          pageRecord(
            { name: `articles/${file}`, by: 'file', title: article.title, readAt },
            looker.look(article, ''),
          ),
        ]
      : [];
  });
  const at = `http://${siteHost}:${standins}`;
  const pages = sitePages(`http://${domain.host}:${port}`, `http://polehouse.localhost:${standins}`).map(
    ({ path, title, body }) => {
      const looked = looker.look({ text: body.text, form: 'html', page: at + path }, '');
      return pageRecord({ name: at + path, by: 'crawl', title, readAt }, looked);
    },
  );
  return [...files, ...pages]
    .filter((page) => page.links.length > 0)
    .map((page) => changeOf('page', page, 1, 'Ines'));
};

/** What the simulated networks remember of the season, so that their consoles tell the same story. */
const writePast = (config: Config, { sales, made }: Season): void => {
  for (const kind of kinds) {
    const network = made.networks.find(({ id }) => id === `net_${kind.id}`);
    if (!network) continue;
    const ofNetwork = sales.filter((sale) => sale.network === network.id);
    const [account] = kind.accounts;
    const [slot = ''] = kind.slots;
    const number = (i: number) => kind.clickName.slice(0, 2) + (kind.firstClick + i);
    const code = (program: string) => made.programs.find(({ id }) => id === program)?.code ?? '';
    const addressWith = (fields: readonly PostbackField[]) => {
      const query = fields.flatMap((field) => {
        const placeholder = network.postback.placeholders[field];
        return placeholder === undefined ? [] : [`${field}=${placeholder}`];
      });
      return `http://${made.domain.host}:${config.port}/postback/${network.postback.key}?${query.join('&')}`;
    };
    writeBooks(booksPath(config.dataDir, kind), {
      clicks: ofNetwork.map((sale, i) => ({
        number: number(i),
        at: sale.clickAt,
        account,
        offer: code(sale.program),
        slots: { [slot]: kind.keeps(sale.click, slot) },
        visitor: '',
      })),
      transactions: ofNetwork.map((sale, i) => ({
        order: sale.txn,
        click: number(i),
        at: sale.at,
        event: sale.event,
        sale: { minor: Math.round(sale.amount / 0.08), currency: sale.currency },
        commission: {
          minor: sale.report?.amount ?? sale.amount,
          currency: sale.report?.currency ?? sale.currency,
        },
        state: sale.report?.state ?? 'pending',
        changedAt: sale.at,
      })),
      postbacks: {
        [account]: addressWith(postbackFields),
        // Kelvane has one for an offer besides, which names no transaction: some fire twice.
        ...(kind.id === 'kelvane' && { [`${account}/71`]: addressWith(['click', 'event', 'amount']) }),
      },
    });
  }
};

/** Writes the season's journal as the server would have, day by day. */
const writeJournal = async (config: Config, season: Season): Promise<void> => {
  let now = 0;
  const { journal } = await Journal.open(
    join(config.dataDir, 'journal'),
    clickId(season.journal[0]?.at ?? 0, new Uint8Array(10)),
    { now: () => now },
  );
  const list = season.journal;
  for (const [i, draft] of list.entries()) {
    now = draft.at;
    const next = list[i + 1];
    // The last of a day is waited for, so that each day has its file.
    if (next && Math.floor(next.at / day) === Math.floor(now / day) && i % 5000 !== 4999)
      journal.append(draft);
    else await journal.keep(draft);
  }
  await journal.close();
};

/**
 * Fills an empty data folder with ninety days of Nightledge that end with the last midnight: what its people made, what
 * visitors and networks sent, the reports they imported, and beside it the reports they did not, their articles, and what was planted.
 *
 * @param requests about how many
 * @param now milliseconds since 1970 UTC
 */
export const fillSeason = async (config: Config, requests: number, now = Date.now()): Promise<void> => {
  const end = Math.floor(now / day) * day;
  const standins = config.port + 1;
  const place = (name: string) =>
    name === 'see.nightledge' ? `${name}.localhost` : `${name}.localhost:${standins}`;
  const first = makeSeason({ seed: 881, end, days, requests, place });
  const changes = changesOf(first);
  const season = {
    ...first,
    journal: first.journal.map((draft) =>
      'version' in draft && draft.kind === 'hop' ? { ...draft, version: changes.length } : draft,
    ),
  };

  const send = async (at: number, work: (place: ServerAddress) => Promise<void>) => {
    const running = await run({ ...config, standins: false }, () => at);
    try {
      await work({ port: config.port, key: running.fernhop.key.value });
    } finally {
      await running.stop();
    }
  };
  const sendAll = async (server: ServerAddress, list: readonly Change[]) => {
    for (let from = 0; from < list.length; from += 100) {
      const { refused } = await sendChanges(server, list.slice(from, from + 100));
      if (refused[0]) throw new Error(`the demo data was refused: ${refused[0].message}`);
    }
  };
  await send(end - days * day - 1, (server) => sendAll(server, changes));
  await writeJournal(config, season);
  writePast(config, season);

  const reports = join(config.dataDir, 'reports');
  mkdirSync(reports, { recursive: true });
  for (const { name, text } of season.reports) writeFileSync(join(reports, name), text);
  const articles = join(config.dataDir, 'articles');
  writeArticles(articles, place, config.port);
  const pages = readPages(season, articles, end, { ...config, standins });
  await send(now, (server) => sendAll(server, [...importReports(season, end), ...pages]));
  writeFileSync(join(config.dataDir, 'truth.json'), `${JSON.stringify(season.truth, undefined, 1)}\n`);
};
