import * as v from 'valibot';
import type { ClosedMonth, Decision, Payment, Rate, Report } from './books.ts';
import { closedMonth, decision, payment, rate, report } from './books.ts';
import {
  colour,
  currency,
  destination,
  host,
  id,
  moment,
  named,
  slug,
  slugPath,
  text,
  webAddress,
  zone,
} from './fields.ts';
import { hopChoices, marks, ownHopChoices } from './hopChoices.ts';
import type { Choice } from './choices.ts';
import { choice } from './choices.ts';
import type { Promotion } from './promotions.ts';
import { promotion } from './promotions.ts';
import type { Cost } from './costs.ts';
import { cost } from './costs.ts';
import type { Account, Network, Program } from './network.ts';
import { account, network, program } from './network.ts';
import type { Kit, OwnPicture, Product, SourceRecord } from './products.ts';
import type { Page } from './pages.ts';
import { page } from './pages.ts';
import { kit, picture, product, source, sourceName } from './products.ts';
import { branch, closedAnswer, hours } from './branches.ts';

const prefix = v.pipe(
  v.string(),
  v.maxLength(40),
  v.regex(/^(?:[a-z0-9-]+\/)*$/, 'A prefix is empty or ends with /, such as go/'),
);

/** A domain of the person's own that answers short links. */
const domain = v.strictObject({
  id: id('dom'),
  host,
  prefix,
  /** Prefixes it had before; what was placed with them goes on answering. */
  earlierPrefixes: v.optional(v.pipe(v.array(prefix), v.maxLength(20)), []),
  /** A link's group stands in its address. */
  groups: v.optional(v.boolean(), false),
  zone,
  robots: v.picklist(['keep-away', 'let-in']),
  hop: hopChoices,
  marks,
  /** What answers before a link opens and after it closed, where the link says nothing. */
  before: v.exactOptional(closedAnswer),
  after: v.exactOptional(closedAnswer),
  /** For how many days its own cookie knows a visitor again; 0 sets none. */
  cookieDays: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(400)), 0),
  /** Its links may stand in mail, and on social pages. */
  mail: v.optional(v.boolean(), true),
  social: v.optional(v.boolean(), true),
});

const link = v.strictObject({
  id: id('lnk'),
  domain: id('dom'),
  slug,
  /** Older addresses after the domain's prefix that go on answering: a slug, or a group and a slug. */
  aliases: v.pipe(v.array(slugPath), v.maxLength(200)),
  title: named(200),
  destination,
  /** Pieces in braces that are not tokens of ours and are sent as they stand, such as `{{ad}}`. */
  asText: v.pipe(v.array(text(80)), v.maxLength(20)),
  network: v.optional(id('net')),
  program: v.optional(id('prg')),
  hop: ownHopChoices,
  marks: v.partial(marks),
  notes: text(4000),
  createdAt: moment,
  group: v.exactOptional(v.union([slug, v.literal('')])),
  tags: v.exactOptional(v.pipe(v.array(named(40)), v.maxLength(30))),
  /** Codes of coupons that are handed out with it, and the source they are handed out at: a sale with one and no click is its. */
  coupons: v.exactOptional(
    v.strictObject({ codes: v.pipe(v.array(named(80)), v.minLength(1), v.maxLength(30)), source: text(200) }),
  ),
  /** Address of a picture of what it leads to. */
  picture: v.exactOptional(webAddress(2000, 'A picture')),
  /** What is linked where it stands in a sentence; its title when left out. */
  anchor: v.exactOptional(named(200)),
  /** Words that are linked to it in articles. */
  keywords: v.exactOptional(
    v.pipe(
      v.array(
        v.strictObject({
          text: named(120),
          /** Regular forms of its last word are it too. */
          forms: v.exactOptional(v.boolean()),
          /** Capitals count. */
          exact: v.exactOptional(v.boolean()),
        }),
      ),
      v.maxLength(100),
    ),
  ),
  /** Addresses that it takes the place of in articles, besides the page it leads to. */
  replaces: v.exactOptional(v.pipe(v.array(webAddress(4000, 'An address')), v.maxLength(100))),
  starred: v.exactOptional(v.boolean()),
  branches: v.exactOptional(
    v.pipe(
      v.array(branch),
      v.maxLength(40),
      v.checkItems(
        ({ id }, i, all) => all.findIndex((other) => other.id === id) === i,
        'Two branches have the same ID. Make one of them anew.',
      ),
    ),
  ),
  /** Share of its own destination among the branches without conditions; 1 when left out. */
  weight: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1000))),
  /** Weights of its splits move by themselves to what earns more; each branch keeps at least so many visitors of a hundred. */
  movesWeights: v.exactOptional(
    v.strictObject({ least: v.pipe(v.number(), v.integer(), v.minValue(10), v.maxValue(50)) }),
  ),
  hours: v.exactOptional(hours),
  /** Archived: answers 410, or as another link does. */
  archived: v.exactOptional(v.strictObject({ at: moment, to: v.exactOptional(id('lnk')) })),
});

const savedFilter = v.strictObject({ name: named(60), query: text(2000) });

const tableLook = v.strictObject({
  /** The column it is sorted by, and whether the largest come first. */
  sort: v.exactOptional(v.strictObject({ by: named(40), down: v.boolean() })),
  columns: v.exactOptional(v.pipe(v.array(named(40)), v.maxLength(60))),
});

const most = (limit: number) => v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(limit));
const articleChoices = v.strictObject({
  /** Most links that keywords make in one article: of one keyword, to one link, in all. */
  perKeyword: most(100),
  perLink: most(100),
  perArticle: most(1000),
  /** The same link is not made twice within so many words. */
  apart: most(10_000),
  /** Keywords are linked in headings too. */
  headings: v.boolean(),
  /** Texts that are never linked, nor anything in them. */
  skip: v.pipe(v.array(named(120)), v.maxLength(1000)),
  /** Finds that were refused for good, by what they are. */
  never: v.pipe(v.array(text(4200)), v.maxLength(5000)),
  /** What links of Markdown are written as: Markdown has no place for marks, HTML has. */
  markdown: v.picklist(['markdown', 'html']),
  /** Kinds of finds that are not looked for. */
  without: v.pipe(v.array(named(40)), v.maxLength(30)),
  /** What is put before the first link of an article; the usual words when empty. */
  disclosure: text(1000),
});

const settings = v.strictObject({
  id: v.literal('settings'),
  currency,
  /** Filters of the list, by the query of its address. */
  filters: v.exactOptional(v.pipe(v.array(savedFilter), v.maxLength(50))),
  /** How tables are shown, by the name of the table: what they are sorted by, and which columns they have. */
  tables: v.exactOptional(v.pipe(v.record(text(40), tableLook), v.maxEntries(50))),
  /** How columns of imported files were read, by the header line. */
  columns: v.exactOptional(v.record(text(2000), v.record(text(200), text(40)))),
  /** What counts as a visit, where it differs from what is usual. */
  classification: v.exactOptional(
    v.strictObject({
      /** For how many minutes after a counted visit the same visitor on the same link is a repeat. */
      repeatMinutes: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(1440)),
      /** More requests of one visitor than this within so many seconds are a machine's. */
      burstRequests: v.pipe(v.number(), v.integer(), v.minValue(2), v.maxValue(10_000)),
      burstSeconds: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(3600)),
      /** Whoever makes a test hop is the person, for the rest of that day. */
      ownByTest: v.exactOptional(v.boolean()),
      /** Pieces of user agents that are robots here, besides those that are known. */
      robots: v.pipe(v.array(named(100)), v.maxLength(100)),
      /** Requests that the person treats as machines': of these sources in this time, by these user agents, or by all where none is named. */
      machines: v.exactOptional(
        v.pipe(
          v.array(
            v.strictObject({
              sources: v.pipe(v.array(sourceName), v.minLength(1), v.maxLength(100)),
              from: moment,
              until: moment,
              agents: v.pipe(v.array(v.pipe(v.string(), v.maxLength(4096))), v.maxLength(10)),
            }),
          ),
          v.maxLength(200),
        ),
      ),
    }),
  ),
  /** The server may read title, description and picture of shops' pages. */
  readPages: v.exactOptional(v.boolean()),
  /** How placed links and buttons look, where the person wants them to look like their own: colours such as `#2c6a4c`. */
  placing: v.exactOptional(v.strictObject({ link: colour, ground: colour, ink: colour })),
  /** Words and colours of cards, where they differ from what is usual. */
  cards: v.exactOptional(
    v.strictObject({
      /** On the button; `{shop}` stands for who sells it. */
      button: named(60),
      /** With a price; `{price}` and `{day}` stand for it and the day on which it was found. */
      price: named(120),
      /** With a higher price it is said to have had; `{price}` stands for it. */
      list: named(120),
      /** With a coupon; `{code}` stands for it. */
      coupon: named(120),
      /** With the last day of a coupon; `{day}` stands for it. */
      until: named(120),
      /** In which prices and days are written, as a tag such as `en` (BCP 47). */
      language: v.pipe(
        v.string(),
        v.regex(/^[a-z]{2,3}(?:-[A-Za-z0-9]{2,8})*$/, 'A language is a tag such as en or de-AT.'),
      ),
      /** Behind a card, and of its words. */
      paper: colour,
      words: colour,
    }),
  ),
  /** How articles are read and changed, where that differs from what is usual. */
  articles: v.exactOptional(articleChoices),
  /** For how many months the server keeps requests one by one; daily counts stay. Left out, it keeps all. */
  keepMonths: v.exactOptional(v.pipe(v.number(), v.integer(), v.minValue(6), v.maxValue(120))),
});

/** The schema of every kind of record a person edits. */
export const recordSchemas = {
  domain,
  network,
  program,
  account,
  link,
  settings,
  report,
  decision,
  month: closedMonth,
  payment,
  rate,
  cost,
  choice,
  promotion,
  product,
  picture,
  kit,
  source,
  page,
} as const;

export type RecordKind = keyof typeof recordSchemas;
export const recordKinds = Object.keys(recordSchemas) as readonly RecordKind[];

export type Domain = v.InferOutput<typeof domain>;
export type Link = v.InferOutput<typeof link>;
export type LinkKeyword = NonNullable<Link['keywords']>[number];
export type ArticleChoices = v.InferOutput<typeof articleChoices>;
export type Settings = v.InferOutput<typeof settings>;
export type TableLook = v.InferOutput<typeof tableLook>;
export type SavedFilter = v.InferOutput<typeof savedFilter>;
/** The record of each kind. */
export interface RecordOf {
  domain: Domain;
  network: Network;
  program: Program;
  account: Account;
  link: Link;
  settings: Settings;
  report: Report;
  decision: Decision;
  month: ClosedMonth;
  payment: Payment;
  rate: Rate;
  cost: Cost;
  choice: Choice;
  promotion: Promotion;
  product: Product;
  picture: OwnPicture;
  kit: Kit;
  source: SourceRecord;
  page: Page;
}
