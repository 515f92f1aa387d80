import type { Cost, CostBasis, Promotion } from '#core/catalogue';
import { dayName, dayNumber } from '#core/hop';
import { currencyIn, inferDecimal, knownCurrency, monthNumber } from '#core/values';

export interface SentenceInput {
  readonly text: string;
  /** Names of the sources that are known. */
  readonly sources: readonly string[];
  readonly links: readonly { readonly id: string; readonly slug: string }[];
  readonly promotions?: readonly Pick<Promotion, 'id' | 'name' | 'from' | 'until'>[];
  /** The person's own currency: what is meant where none is named, or where a sign stands for several. */
  readonly currency: string;
  /** Their day, `2026-11-30`. */
  readonly today: string;
}

/** What a sentence says of a cost, or why that is not sure, with what to write instead. */
export type SentenceReading =
  { readonly ok: true; readonly cost: Omit<Cost, 'id'> } | { readonly ok: false; readonly problem: string };

class Unread extends Error {}

/** A sentence of which one piece after another is taken away. */
class Rest {
  constructor(public text: string) {}

  /** Takes the first piece that fits a pattern, and gives its groups. */
  take(pattern: RegExp): readonly (string | undefined)[] | undefined {
    const found = pattern.exec(this.text);
    if (!found) return undefined;
    this.text = `${this.text.slice(0, found.index)} ${this.text.slice(found.index + found[0].length)}`;
    return found.slice(1);
  }
}

const bases: readonly (readonly [CostBasis, RegExp])[] = [
  [
    'thousand',
    /(?:\b(?:an?|per|each|every)|\/)\s*(?:thousand|mille|1[., ]?000)(?:\s+(?:clicks|visits))?\b|\bcpm\b/i,
  ],
  ['click', /(?:\b(?:an?|per|each|every)|\/)\s*(?:click|visit)\b|\bcpc\b/i],
  ['day', /(?:\b(?:an?|per|each|every)|\/)\s*day\b|\bdaily\b/i],
  ['all', /\b(?:in all|altogether|as a lump sum|lump sum|once)\b/i],
];

const takeBasis = (rest: Rest): CostBasis => {
  const found = bases.filter(([, pattern]) => rest.take(pattern) !== undefined).map(([basis]) => basis);
  const isShare = rest.take(/%\s*(?:of\s+(?:the\s+|its\s+)?commissions?)?/i) !== undefined;
  if (isShare) {
    if (found.length > 0)
      throw new Unread('A share is of the commission, not of a click or a day. Leave one of them out.');
    // The number stays, without its sign.
    return 'share';
  }
  if (found.length > 1)
    throw new Unread(`Is it ${found.map((basis) => basisWords[basis]).join(' or ')}? Leave one of them out.`);
  return found[0] ?? 'all';
};
const basisWords: Readonly<Record<CostBasis, string>> = {
  click: 'by click',
  thousand: 'by thousand',
  day: 'by day',
  all: 'all together',
  share: 'a share',
};

/** A number with what stands for a currency before or after it; the sign of a minus is kept, to be refused. */
const moneyPattern =
  /([-\u2212]?\s*(?:\b[A-Z]{3}\s?|[A-Z]{0,2}\p{Sc}\s?)?[-\u2212]?(?<![\p{L}\d_])\d[\d.,'\u00A0\u202F]*(?:\s?(?:[A-Z]{0,2}\p{Sc}|[A-Z]{3}\b))?)(?![\p{L}\d_-])/u;

const takeMoney = (rest: Rest, usual: string): { readonly amount: string; readonly currency: string } => {
  const [found] = rest.take(moneyPattern) ?? [];
  if (found === undefined)
    throw new Unread('How much was it? Write an amount such as €310, or 0.045 EUR a click.');
  const written = found.trim();
  if (/[-\u2212]/.test(written))
    throw new Unread(`${written} is below nothing. What you were paid is no cost: write what you paid.`);
  const digits = written.replace(/[^\d.,'\u00A0\u202F]/g, '').replace(/[.,]$/, '');
  const sign = /[.,]/.test(digits) ? inferDecimal([digits]) : '.';
  if (sign === undefined) {
    const [whole = '', decimals = ''] = digits.split(/[.,]/);
    throw new Unread(
      `Is ${digits} the number ${whole}${decimals}, or a little more than ${whole}? Write ${whole}${decimals} or ${whole}.${decimals}0.`,
    );
  }
  const amount = digits
    .replace(sign === '.' ? /[,'\u00A0\u202F]/g : /[.'\u00A0\u202F]/g, '')
    .replace(',', '.');
  if (!/^\d{1,7}(?:\.\d{1,9})?$/.test(amount) || Number(amount) === 0)
    throw new Unread(`${written} is no amount of a cost. Write one such as €310, or 0.045 EUR a click.`);
  const currency = currencyIn(written, usual) ?? usual;
  if (!knownCurrency(currency))
    throw new Unread(`${currency} is no currency there is. Write its three letters, such as EUR.`);
  return { amount, currency };
};

const months = String.raw`(?!(?:from|since|between|until|till|starting)\b)\p{L}{3,12}`;
const dayPattern = String.raw`(?:\d{4}-\d\d-\d\d|\d{1,2}(?:st|nd|rd|th|\.)?(?:\s+of)?\s+${months}\.?(?:,?\s+\d{4})?|${months}\.?\s+\d{1,2}(?:st|nd|rd|th)?(?:,\s*\d{4}|\s+\d{4})?|today|yesterday)`;
const to = String.raw`\s*(?:to|until|till|through|[-\u2013\u2014])\s*`;
const days = {
  span: new RegExp(
    String.raw`(?:\b(?:from|between|on)\s+)?(?<![\w-])(${dayPattern})${to}(${dayPattern})(?![\w-])`,
    'iu',
  ),
  short: new RegExp(
    String.raw`(?:\b(?:from|between|on)\s+)?(?<![\w-])(\d{1,2})(?:st|nd|rd|th|\.)?${to}(\d{1,2}(?:st|nd|rd|th|\.)?\s+${months}\.?(?:,?\s+\d{4})?)(?![\w-])`,
    'iu',
  ),
  month: new RegExp(String.raw`\b(?:in|during)\s+(${months})(?:\s+(\d{4}))?(?![\w-])`, 'iu'),
  since: new RegExp(
    String.raw`\b(?:from|since|starting(?:\s+on)?)\s+(${dayPattern})(?:\s+on(?:wards)?)?(?![\w-])`,
    'iu',
  ),
  on: new RegExp(String.raw`\bon\s+(${dayPattern})(?![\w-])`, 'iu'),
  numbers: /\b\d{1,2}[./]\d{1,2}(?:[./]\d{2,4})?\b/,
} as const;

/** A day of which the year may be missing: then it is the one that lies nearest to another day. */
const dayOf = (text: string, near: string, notBefore = ''): string => {
  if (/^today$/i.test(text)) return near;
  if (/^yesterday$/i.test(text)) return dayName(dayNumber(near) - 1);
  const parts = text.match(/\d+|\p{L}{3,}/gu) ?? [];
  const [year, month, day] = /^\d{4}-/.test(text)
    ? parts.map(Number)
    : [
        Number(parts.find((part) => /^\d{4}$/.test(part)) ?? NaN),
        monthNumber(parts.find((part) => /^\p{L}/u.test(part)) ?? ''),
        Number(parts.find((part) => /^\d{1,2}$/.test(part)) ?? NaN),
      ];
  const named = (of: number): string | undefined => {
    const name = `${of}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
    const number = dayNumber(name);
    return Number.isFinite(number) && dayName(number) === name ? name : undefined;
  };
  const own = Number(near.slice(0, 4));
  const years = Number.isNaN(year ?? NaN) ? [own - 1, own, own + 1] : [year ?? own];
  const found = years.flatMap((of) => named(of) ?? []).filter((name) => name >= notBefore);
  const away = (name: string): number => Math.abs(dayNumber(name) - dayNumber(near));
  const [nearest] = found.sort((a, b) => away(a) - away(b) || (a < b ? -1 : 1));
  if (nearest === undefined || month === 0)
    throw new Unread(`There is no day ${text}. Check the day and the month.`);
  return nearest;
};

/** Days are named; a price such as 0.05 is none of them. */
const saysDays = ({ text }: Rest): boolean =>
  Object.values(days).some((pattern) => pattern !== days.numbers && pattern.test(text));

const takeDays = (rest: Rest, today: string): Pick<Cost, 'from' | 'until'> => {
  const short = rest.take(days.short);
  if (short) {
    const [first = '', last = ''] = short;
    const until = dayOf(last, today);
    return { from: dayOf(`${until.slice(0, 8)}${first.padStart(2, '0')}`, today), until };
  }
  const span = rest.take(days.span);
  if (span) {
    const [first = '', last = ''] = span;
    const hasYear = (text: string): boolean => /\d{4}|day$/i.test(text);
    // A day without a year goes by the other, and the last one is not before the first.
    if (hasYear(last)) {
      const until = dayOf(last, today);
      return { from: dayOf(first, hasYear(first) ? today : until), until };
    }
    const from = dayOf(first, today);
    return { from, until: dayOf(last, from, from) };
  }
  const since = rest.take(days.since);
  if (since) return { from: dayOf(since[0] ?? '', today) };
  const on = rest.take(days.on);
  if (on) {
    const day = dayOf(on[0] ?? '', today);
    return { from: day, until: day };
  }
  const month = rest.take(days.month);
  if (month) {
    const [name = '', year = ''] = month;
    const from = dayOf(`1 ${name} ${year}`, today);
    const next = dayOf(`${from.slice(0, 8)}28`, from);
    const until = [28, 29, 30, 31]
      .map((day) => dayName(dayNumber(next) + day - 28))
      .filter((day) => day.slice(0, 7) === from.slice(0, 7));
    return { from, until: until.at(-1) ?? from };
  }
  const [numbers] = days.numbers.exec(rest.text) ?? [];
  if (numbers !== undefined)
    throw new Unread(`${numbers} may be two different days. Write the month as a word, such as 14 Oct.`);
  throw new Unread(
    'Which days was it for? Write them such as from 14 to 16 Oct, on 14 Oct, or since 14 Oct.',
  );
};

/** A promotion by its name, which may be several words, a day among them: it is taken before days are looked for. */
const takePromotion = (
  rest: Rest,
  promotions: NonNullable<SentenceInput['promotions']>,
): (typeof promotions)[number] | undefined => {
  const said = String.raw`\b(?:for|on|to)\s+(?:the\s+)?promotion\s+`;
  if (!new RegExp(said, 'i').test(rest.text)) return undefined;
  const quoted = (text: string) => text.replace(/[.*+?^${}()|[\]\\]/g, String.raw`\$&`);
  const found = promotions
    .toSorted((a, b) => b.name.length - a.name.length)
    .find(({ name }) => rest.take(new RegExp(`${said}${quoted(name)}(?![\\p{L}\\d-])`, 'iu')) !== undefined);
  if (!found)
    throw new Unread(
      promotions.length === 0
        ? 'There is no promotion yet. Make one first, or write for source or for link.'
        : `No promotion is called so. There are: ${promotions.map(({ name }) => name).join(', ')}.`,
    );
  const same = promotions.filter(({ name }) => name.toLowerCase() === found.name.toLowerCase());
  if (same.length > 1) throw new Unread(`Two promotions are called ${found.name}. Rename one of them.`);
  return found;
};

const takeTarget = (rest: Rest, { sources, links }: SentenceInput): Cost['of'] => {
  const placed = rest.take(/\b(?:for|on|at)\s+placement\s+(\S+)\s+(?:of|at|in)\s+(?:source\s+)?([\w-]+)/i);
  const [said, name] = placed
    ? ['source', placed[1] ?? '']
    : (rest.take(/\b(?:for|to|on)\s+(?:the\s+)?(?:(source|link)\s+)?([\w-]+)/i) ?? []);
  if (name === undefined)
    throw new Unread('What was it for? Write the name of a source or a link, such as for newsletter.');
  const source = sources.find((one) => one.toLowerCase() === name.toLowerCase());
  const link = links.find(({ slug }) => slug.toLowerCase() === name.toLowerCase());
  const isLink = said?.toLowerCase() === 'link';
  const isSource = said?.toLowerCase() === 'source';
  if (isLink && !link) throw new Unread(`No link is called ${name}. Check the word after the domain.`);
  if (!isLink && !isSource && source !== undefined && link)
    throw new Unread(`${name} is a source and a link. Write for source ${name}, or for link ${name}.`);
  if (link && !isSource && source === undefined) return { kind: 'link', link: link.id };
  if (isLink && link) return { kind: 'link', link: link.id };
  if (source === undefined && !isSource)
    throw new Unread(
      `No source and no link is called ${name}. Write for source ${name}, where its visits are yet to come.`,
    );
  if (!/^[A-Za-z0-9][\w-]{0,63}$/.test(name))
    throw new Unread(`${name} is no name of a source: letters and digits, with - and _ between them.`);
  const own = source ?? name;
  return placed
    ? { kind: 'placement', source: own, placement: placed[0] ?? '' }
    : { kind: 'source', source: own };
};

/** Words that say nothing of a cost. */
const fillers =
  /\b(?:i|we|paid|pay|spent|spend|cost|costs|it|the|of|for|a|an|and|at|was|were|is|from|clicks?|visits?)\b|[.,;!]/gi;

/**
 * Reads a cost from a sentence: *€310 for bought-oct-a from 14 to 16 Oct: the first mailing*, *0.045 EUR a click for flyer since 1 Oct, all
 * clicks billed*. What is behind a colon is its note. Nothing is guessed: what is missing, may be two things or is not understood is
 * said, with what to write instead; a day without a year is the nearest to today.
 */
export const readCostSentence = (input: SentenceInput): SentenceReading => {
  const [, said = '', note = ''] = /^(.*?)(?::\s+(.*))?$/s.exec(input.text.trim()) ?? [];
  const rest = new Rest(said);
  try {
    const promotion = takePromotion(rest, input.promotions ?? []);
    // What was paid for a promotion is for its days, unless others are named.
    const span =
      promotion && !saysDays(rest)
        ? { from: promotion.from, ...(promotion.until !== undefined && { until: promotion.until }) }
        : takeDays(rest, input.today);
    const billsAll =
      rest.take(/,?\s*\b(?:for\s+)?(?:all|every)\s+(?:clicks?|requests?)(?:\s+(?:is|are)?\s*billed)?\b/i) !==
      undefined;
    const per = takeBasis(rest);
    const of: Cost['of'] = promotion
      ? { kind: 'promotion', promotion: promotion.id }
      : takeTarget(rest, input);
    const { amount, currency } = takeMoney(rest, input.currency);
    const left = rest.text.replace(fillers, ' ').replace(/\s+/g, ' ').trim();
    if (left !== '')
      throw new Unread(`"${left}" is not understood. Leave it out, or write it behind a colon as a note.`);
    if (billsAll && per !== 'click' && per !== 'thousand')
      throw new Unread(
        'Which clicks are billed says something of a price by click or thousand only. Leave one of them out.',
      );
    if (per === 'share' && Number(amount) > 100) throw new Unread('A share is at most 100 %.');
    if (span.until !== undefined && span.until < span.from)
      throw new Unread(`${span.until} lies before ${span.from}. Check the days.`);
    return {
      ok: true,
      cost: { of, per, amount, currency, ...span, ...(billsAll && { billsAll }), note: note.trim() },
    };
  } catch (error) {
    if (error instanceof Unread) return { ok: false, problem: error.message };
    throw error;
  }
};
