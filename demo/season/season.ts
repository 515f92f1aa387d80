import { isbot } from 'isbot';
import type { Cost, Promotion, Rate } from '#core/catalogue';
import { comesByMail } from '#core/catalogue';
import type { JournalDraft, JournalRecord } from '#core/visits';
import { Classification, defaultRules, VisitColumns } from '#core/visits';
import type { Made, StandinAddress } from './catalogue.ts';
import { nightledge } from './catalogue.ts';
import type { Visit } from './people.ts';
import type { PaidSource, TruePromotion } from './costs.ts';
import { split, withBranches } from './split.ts';
import { costsOf } from './costs.ts';
import { people } from './people.ts';
import { Chance } from './random.ts';
import type { ReportFile } from './reports.ts';
import { clickReports, conversionReports } from './reports.ts';
import type { Fault, Sale } from './sale.ts';
import { sell } from './sales.ts';
import type { Total } from './totals.ts';

/** What was planted, for those who check what reconciling finds. */
export interface Truth {
  readonly seed: number;
  readonly faults: readonly Fault[];
  readonly totals: readonly Total[];
  /** Of each source that was paid for, whether it earns what it costs. */
  readonly pays: readonly PaidSource[];
  readonly efforts: readonly TruePromotion[];
  /** The link whose visitors are split, and the branch that sells better. */
  readonly split: { readonly link: string; readonly better: string };
}

/** Ninety days of Nightledge: what people made, what visitors and networks sent, what networks report, and the truth. */
export interface Season {
  readonly made: Made & {
    readonly costs: readonly Cost[];
    readonly rates: readonly Rate[];
    readonly promotions: readonly Promotion[];
  };
  /** In the order of time, without their `seq`. */
  readonly journal: readonly JournalDraft[];
  readonly reports: readonly ReportFile[];
  readonly sales: readonly Sale[];
  readonly truth: Truth;
}

export interface SeasonOptions {
  readonly seed: number;
  /** Midnight UTC after its last day; milliseconds since 1970 UTC. */
  readonly end: number;
  readonly days?: number;
  /** About how many requests there are. */
  readonly requests?: number;
  readonly place?: StandinAddress;
  /** Version of the catalogue under which everything happens. */
  readonly version?: number;
}

const draftOf = ({ hop }: Visit, site: string): JournalDraft =>
  hop.branch === 'page'
    ? {
        kind: 'beacon',
        at: hop.at,
        event: 'click',
        click: hop.click,
        link: hop.link,
        source: hop.source,
        page: `${site}/saturn-guide`,
        seconds: 0,
        ua: hop.ua,
        visitor: hop.visitor,
        country: hop.country,
      }
    : hop;

type Trace = Extract<JournalDraft, { kind: 'trace' }>;

/** Somebody of Nightledge looks now and then whether a link still arrives; the network takes each for a click. */
const tracesOf = ({ links }: Made, end: number, days: number): Trace[] =>
  ['lnk_redlamp', 'lnk_saturnkit', 'lnk_starmap', 'lnk_headlamp', 'lnk_saturnkit', 'lnk_redlamp'].flatMap(
    (id, i) => {
      const link = links.find((one) => one.id === id);
      return link
        ? [
            {
              kind: 'trace',
              at: end - Math.round((0.1 + i * 0.14) * days) * 86_400_000 + 9.4 * 3_600_000,
              by: 'person',
              link: id,
              hosts: [new URL(link.destination.replace(/\{[a-z]+\}/g, 'x')).hostname],
              alive: true,
              because: '',
            } as const,
          ]
        : [];
    },
  );

/** How the page of their own was read, by who came to it through its link: a record a visit, a minute after it. */
const readingsOf = (visits: readonly Visit[], page: string): Extract<JournalDraft, { kind: 'reading' }>[] =>
  visits
    .filter(({ who, hop }) => who === 'person' && hop.link === 'lnk_firstnight')
    .map(({ hop: { at, source, visitor } }) => {
      // It follows from the visitor, so that chance is not asked.
      const share = parseInt(visitor.slice(0, 8), 16) / 2 ** 32;
      const seconds = Math.round(8 + 160 * share * share);
      const scrolled = share > 0.35 ? 1 : 0;
      const depth = Math.round(30 + 70 * share);
      return { kind: 'reading', at: at + 60_000, page, views: 1, seconds, depth, source, scrolled };
    });

/** Makes a season. The same options give the same bytes. */
export const makeSeason = ({
  seed,
  end,
  days = 90,
  requests = 60_000,
  place = (name) => `${name}.example`,
  version = 1,
}: SeasonOptions): Season => {
  const keys = new Chance(seed ^ 0x6e7);
  const made = nightledge(place, end, () => keys.hex(32));
  const site = `http://${place('nightledge')}`;
  const came = people({ made, seed, end, days, requests, version, site });
  const { sales, postbacks, faults, totals, reportedUntil } = sell(made, came, seed, end);
  const visits = withBranches(came, sales);

  // A network counts people once in half an hour, as the classification does; that both do is the trade's habit.
  const columns = new VisitColumns();
  for (const [i, { hop }] of visits.entries()) columns.add({ seq: i + 1, ...hop });
  const mails = new Set(made.sources.filter(comesByMail).map(({ source }) => source));
  const classification = new Classification(columns, isbot, defaultRules, (source) => mails.has(source));
  classification.update();
  const counted = new Set(visits.filter((_, row) => classification.outcome(row) === 'counted'));
  const traces = tracesOf(made, end, days);
  const clicks = clickReports(made, visits, (visit) => counted.has(visit), traces, seed, reportedUntil);
  const readings = readingsOf(visits, `${site}/`);
  const journal = [...visits.map((visit) => draftOf(visit, site)), ...postbacks, ...traces, ...readings].sort(
    (a, b) => a.at - b.at,
  );
  const { costs, rates, promotions, pays, efforts } = costsOf(end, days, requests);
  return {
    made: { ...made, costs, rates, promotions },
    journal,
    reports: [...conversionReports(made, sales), ...clicks.files],
    sales,
    truth: {
      seed,
      faults: [...faults, ...clicks.faults],
      totals,
      pays,
      efforts,
      split: { link: split.link, better: split.better },
    },
  };
};

/** The drafts as records, numbered from 1. */
export const numbered = (journal: readonly JournalDraft[]): JournalRecord[] =>
  // A draft is a record less its `seq`.
  journal.map((draft, i) => ({ seq: i + 1, ...draft }) as JournalRecord);
