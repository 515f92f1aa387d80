import { promotionSeparator } from '#core/catalogue';
import { fromLog } from '#core/hop';
import type { DimensionName } from '#core/traffic';
import type { TrafficQuestion } from '#core/queries';
import type { Outcome } from '#core/visits';
import { useCatalogue } from '../data/catalogue.ts';
import { dayMonth } from '../theme/formats.ts';

const slotWords = (which: string) => ({
  one: `${which} sub-ID`,
  none: 'empty',
  hint: `What the ${which} slot of the link’s network holds, the source filled in. A click ID is told as {click}.`,
});
const passedWords = (one: string, what: string) => ({
  one,
  none: `no ${one}`,
  hint: `${what}, as it is passed along in the short address. Place, Sources, says in which parameter.`,
});
/** What traffic is told apart by: as a word of the sentence, as a heading, and what an empty value says. */
export const dimensionWords: Readonly<
  Record<DimensionName, { readonly one: string; readonly none: string; readonly hint: string }>
> = {
  link: { one: 'link', none: 'no link', hint: 'The short link that was asked for.' },
  source: { one: 'source', none: 'no source', hint: 'What stood after ~ or ?from= in the short address.' },
  promotion: {
    one: 'promotion',
    none: 'no promotion',
    hint: 'The efforts that its source, link or page belonged to on that day. Decide, Promotions, says which.',
  },
  page: {
    one: 'page',
    none: 'page not known',
    hint: 'The page with the link. Browsers say no more than its site, unless the page script runs there or copied HTML asks them to.',
  },
  site: { one: 'site', none: 'site not known', hint: 'The site of the page with the link.' },
  country: { one: 'country', none: 'country not known', hint: 'Where the visitor’s address is registered.' },
  language: {
    one: 'language',
    none: 'no language',
    hint: 'The first language the browser asks for. People’s browsers ask for one.',
  },
  connection: {
    one: 'connection',
    none: 'connection not known',
    hint: 'Whether the address belongs to a hosting network, where machines stand and hardly ever people. Known of requests since the table of such networks is there.',
  },
  bot: {
    one: 'kind of bot',
    none: 'no bot',
    hint: 'By what a request is a machine’s. A mail scanner asks from a hosting network for three links of a mailing within ten seconds.',
  },
  device: { one: 'device', none: 'device not known', hint: 'By what the browser says of itself.' },
  browser: { one: 'browser', none: 'browser not known', hint: 'By what the browser says of itself.' },
  system: { one: 'system', none: 'system not known', hint: 'By what the browser says of its machine.' },
  hour: { one: 'weekday and hour', none: 'hour not known', hint: 'By the clock of your own zone.' },
  destination: {
    one: 'destination',
    none: 'not redirected',
    hint: 'The page the link’s branch leads to now, without what stands after its ?.',
  },
  branch: { one: 'branch', none: 'no branch', hint: 'The branch of the split that was taken.' },
  domain: { one: 'domain', none: 'no domain', hint: 'The link domain that was asked.' },
  network: { one: 'network', none: 'no network', hint: 'The network the link belongs to now.' },
  program: { one: 'program', none: 'no program', hint: 'The program the link belongs to now.' },
  group: { one: 'group', none: 'no group', hint: 'The group the link is in now.' },
  tags: { one: 'tags', none: 'no tags', hint: 'The tags the link has now, together.' },
  writer: {
    one: 'writer’s tag',
    none: 'no tag',
    hint: 'The account tag in the address the link’s branch leads to now.',
  },
  slot1: slotWords('first'),
  slot2: slotWords('second'),
  slot3: slotWords('third'),
  slot4: slotWords('fourth'),
  slot5: slotWords('fifth'),
  placement: passedWords('placement', 'Where the seller showed the link'),
  keyword: passedWords('keyword', 'What was searched for'),
  creative: passedWords('creative', 'Which banner or text was shown'),
};

/** What became of requests, with what it means. */
export const outcomeWords: Readonly<Record<Outcome, { readonly name: string; readonly hint: string }>> = {
  counted: { name: 'Visits', hint: 'Counted: a person, and not a repeat.' },
  repeat: { name: 'Repeats', hint: 'The same visitor on the same link shortly after a counted visit.' },
  bot: {
    name: 'Bots',
    hint: 'Machines: by what they say of themselves, by HEAD, by a burst, or as mail scanners.',
  },
  prefetch: { name: 'Prefetches', hint: 'Asked for by a browser before anybody pressed anything.' },
  'not redirected': { name: 'Not redirected', hint: 'The link was closed, archived or refused.' },
  test: { name: 'Tests', hint: 'Your own test hops.' },
};

const regions = new Intl.DisplayNames(undefined, { type: 'region', fallback: 'code' });
const languages = new Intl.DisplayNames(undefined, { type: 'language', fallback: 'code' });
const botWords: Readonly<Record<string, string>> = {
  declared: 'says so itself',
  'no user agent': 'no user agent',
  HEAD: 'asked by HEAD alone',
  burst: 'burst of requests',
  'mail scanner': 'mail scanner',
  treated: 'treated as machines',
};
const deviceWords: Readonly<Record<string, string>> = {
  phone: 'phones',
  tablet: 'tablets',
  desktop: 'desktops',
};
const weekdayFormat = new Intl.DateTimeFormat(undefined, { weekday: 'short', timeZone: 'UTC' });
/** Monday is 1; the first of June 2026 was one. */
export const weekdayWord = (weekday: number): string => weekdayFormat.format(Date.UTC(2026, 5, weekday));

/** The name of a code as `Intl` has it; the code itself where it is none. */
const named = (names: Intl.DisplayNames, code: string): string => {
  try {
    return names.of(code) ?? code;
  } catch {
    return code;
  }
};

/** How values are written, by what they are values of. */
export const useValueWords = () => {
  const catalogue = useCatalogue();
  return (of: DimensionName, value: string): string => {
    if (value === '') return dimensionWords[of].none;
    switch (of) {
      case 'link':
        return catalogue.link(value)?.slug ?? value;
      case 'network':
        return catalogue.networks.find(({ id }) => id === value)?.name ?? value;
      case 'program':
        return catalogue.programs.find(({ id }) => id === value)?.name ?? value;
      case 'promotion':
        return value
          .split(promotionSeparator)
          .map((id) => catalogue.promotions.find((one) => one.id === id)?.name ?? id)
          .join(' and ');
      case 'country':
        return named(regions, value);
      case 'language':
        return named(languages, value);
      case 'bot':
        return botWords[value] ?? value;
      case 'connection':
        return value === 'hosting' ? 'hosting network' : 'other network';
      case 'device':
        return deviceWords[value] ?? value;
      case 'branch':
        return value === fromLog ? 'from an access log' : value;
      case 'hour': {
        const [weekday = 1, hour = 0] = value.split('-').map(Number);
        return `${weekdayWord(weekday)} ${String(hour).padStart(2, '0')}:00`;
      }
      case 'page':
      case 'destination':
        return value.replace(/^https?:\/\//, '');
      default:
        return value;
    }
  };
};

const dayWords = (day: string): string => dayMonth(new Date(`${day}T12:00`).getTime());
/** First and last day in words. */
export const periodWords = ({ from, to }: Pick<TrafficQuestion, 'from' | 'to'>): string =>
  from === to ? dayWords(from) : `${dayWords(from)} to ${dayWords(to)}`;

/** Values that are named; the others are counted. */
const mostNamed = 2;
/** How a condition is written. */
export const useConditionWords = () => {
  const valueWords = useValueWords();
  return ({ of, values, not = false }: TrafficQuestion['where'][number]): string => {
    const words = values.slice(0, mostNamed).map((value) => valueWords(of, value));
    const more = values.length > mostNamed ? ` and ${values.length - mostNamed} more` : '';
    return `${not ? 'not ' : ''}${words.join(' or ')}${more}`;
  };
};

/** A question as the title of its days. */
export const useQuestionWords = () => {
  const conditionWords = useConditionWords();
  return (question: TrafficQuestion): string => {
    const { show = 'counted', where, from, to } = question;
    const year =
      from.slice(0, 4) === to.slice(0, 4) ? to.slice(0, 4) : `${from.slice(0, 4)}/${to.slice(0, 4)}`;
    return [
      `${outcomeWords[show].name} by day, ${periodWords(question)} ${year}`,
      ...where.map((condition) => `${dimensionWords[condition.of].one}: ${conditionWords(condition)}`),
    ].join('; ');
  };
};
