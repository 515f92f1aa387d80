import type { Choice, Cost } from '#core/catalogue';
import type { Evidence, Interval } from '#core/figures';
import type { Became, PaysFigures } from '#core/queries';
import { dayName, dayNumber } from '#core/hop';
import { exponentOf } from '#core/values';
import { useCatalogue } from '../data/catalogue.ts';
import { count, dayMonth, percent, signedMoney } from '../theme/formats.ts';

/** The verdict as it is shown. */
export const verdictNames: Readonly<Record<PaysFigures['verdict'], string>> = {
  cut: 'Cut',
  scale: 'Scale',
  'keep testing': 'Keep testing',
  wait: 'Wait',
  'no cost': 'Costs nothing',
  'no visitors': 'Nobody came',
  'no rate': 'No rate',
};

const eachFormats = new Map<string, Intl.NumberFormat>();
/** What a visitor leaves, with one decimal more than the currency has, so that a tenth of a cent is seen. */
export const each = (minor: number, currency: string): string => {
  const places = exponentOf(currency);
  let format = eachFormats.get(currency);
  if (!format) {
    format = new Intl.NumberFormat(undefined, {
      minimumFractionDigits: places + 1,
      maximumFractionDigits: places + 1,
    });
    eachFormats.set(currency, format);
  }
  return format.format(minor / 10 ** places);
};

/** True where the verdict rests on too few sales, not on their age. */
const isOfFewSales = ({ ripe, visitors }: Pick<Evidence, 'ripe' | 'visitors'>): boolean =>
  ripe / visitors >= 0.5;

/** Why a verdict is what it is, in a few words. */
export const reasonOf = (
  { verdict, band, needed, evidence, profit, paidUntil }: PaysFigures,
  currency: string,
): string => {
  switch (verdict) {
    case 'cut':
      return `at best it loses ${each(-(band?.high ?? 0), currency)} a visitor`;
    case 'scale':
      return `at worst it earns ${each(band?.low ?? 0, currency)} a visitor`;
    case 'keep testing':
      if (needed === undefined || needed.fewest === Infinity) return 'it may break even for good';
      return needed.most === Infinity
        ? `at least ${count(needed.fewest)} more visitors`
        : `${count(needed.fewest)} to ${count(needed.most)} more visitors`;
    case 'wait':
      if (paidUntil !== undefined && band && band.high < 0)
        return `it loses so far, but was paid for visits until ${dayWords(paidUntil)}`;
      return !evidence || isOfFewSales(evidence)
        ? 'too few sales are known to say what one pays'
        : 'too young: most of its sales usually come later';
    case 'no cost':
      return band ? `${each(band.low, currency)} to ${each(band.high, currency)} a visitor` : '';
    case 'no visitors':
      return profit < 0 ? 'what it cost is lost' : '';
    case 'no rate':
      return 'part of its money is in a currency without a rate of yours';
  }
};

const basisWords: Readonly<Record<Cost['per'], string>> = {
  all: 'in all',
  click: 'a click',
  thousand: 'a thousand clicks',
  day: 'a day',
  share: 'of the commission',
};
/** The first of so many days that end with another, which is one of them. */
export const daysBefore = (day: string, many: number): string => dayName(dayNumber(day) - many + 1);
/** A calendar day, `12 Oct`. */
export const dayWords = (day: string): string => dayMonth(new Date(`${day}T12:00`).getTime());

/** How costs are told. */
export const useCostWords = () => {
  const catalogue = useCatalogue();
  return {
    /** `€310.00 in all`. */
    amount: ({ per, amount, currency, billsAll }: Cost): string =>
      per === 'share'
        ? `${amount} % ${basisWords.share}`
        : `${amount} ${currency} ${basisWords[per]}${billsAll ? ', all clicks billed' : ''}`,
    /** What it was paid for. */
    target: ({ of }: Cost): string =>
      of.kind === 'link'
        ? `link ${catalogue.link(of.link)?.slug ?? of.link}`
        : of.kind === 'placement'
          ? `placement ${of.placement} of ${of.source}`
          : of.kind === 'promotion'
            ? `promotion ${catalogue.promotions.find(({ id }) => id === of.promotion)?.name ?? of.promotion}`
            : of.source,
    /** `14 Oct to 16 Oct`. */
    days: ({ from, until }: Pick<Cost, 'from' | 'until'>): string =>
      until === undefined
        ? `since ${dayWords(from)}`
        : until === from
          ? dayWords(from)
          : `${dayWords(from)} to ${dayWords(until)}`,
  };
};

const wholeFormats = new Map<string, Intl.NumberFormat>();
/** Money without its decimals, for what is not known to the cent. */
export const wholeMoney = (minor: number, currency: string): string => {
  let format = wholeFormats.get(currency);
  if (!format) {
    format = new Intl.NumberFormat(undefined, {
      style: 'currency',
      currency,
      minimumFractionDigits: 0,
      maximumFractionDigits: 0,
    });
    wholeFormats.set(currency, format);
  }
  return format.format(minor / 10 ** exponentOf(currency));
};

/** What a person may decide. */
export const choiceNames: Readonly<Record<Choice['made'], string>> = {
  cut: 'Cut it',
  scale: 'Scale it',
  'go on': 'Go on testing',
};
const did: Readonly<Record<Choice['made'], string>> = {
  cut: 'you cut',
  scale: 'you scaled',
  'go on': 'you went on with',
};
export const choiceDid = (made: Choice['made']): string => did[made];

/** Less of the sales has come: what became of a decision is not known yet. */
const knownShare = 0.9;

const wouldWords = ({ low, high }: Interval, currency: string): string => {
  if (high < 0)
    return `At its rate then it would have lost another ${wholeMoney(-high, currency)} to ${wholeMoney(-low, currency)} since.`;
  return low > 0
    ? `At its rate then it would have earned another ${wholeMoney(low, currency)} to ${wholeMoney(high, currency)} since.`
    : `At its rate then it would have left something from ${wholeMoney(low, currency)} to ${wholeMoney(high, currency)} since.`;
};

/** What became of a decision, to be read beside it. */
export const becameWords = ({ made, currency }: Choice, became: Became | undefined): string => {
  if (!became) return 'What becomes of it is told from tomorrow on.';
  const { complete, would, since } = became;
  const came = since
    ? `${count(since.visitors)} ${since.visitors === 1 ? 'person' : 'people'} came since and ${
        since.verdict === 'no rate'
          ? 'left what no rate is known of'
          : `left ${signedMoney(since.profit, currency)}`
      }.`
    : '';
  if (complete < knownShare)
    return [
      `Of the sales until then ${percent(complete)} have usually come by now: its outcome is not known yet.`,
      came,
    ]
      .join(' ')
      .trim();
  // What was cut is judged by what did not happen, the others by what did.
  return [would && (made === 'cut' || !since) ? wouldWords(would, currency) : '', came].join(' ').trim();
};

/** A band of profit as money, `€470 to €740`. */
export const bandOfAll = (
  { band, visitors }: Pick<PaysFigures, 'band' | 'visitors'>,
  currency: string,
): string =>
  band ? `${wholeMoney(band.low * visitors, currency)} to ${wholeMoney(band.high * visitors, currency)}` : '';
