import type { HopChoices } from '#core/catalogue';
import { pageKinds } from '#core/catalogue';

/** What each redirect type means for a visitor, a browser and the counter, in one sentence (RFC 9110 §15.4). */
export const redirectMeaning: Readonly<Record<HopChoices['status'], string>> = {
  301: 'Permanent: browsers and search engines may remember the destination and skip this link later. Forms may arrive as plain visits.',
  302: 'Temporary: asked for anew each time. Forms may arrive as plain visits.',
  307: 'Temporary: asked for anew each time, so every click is counted. The way of asking stays as it was.',
  308: 'Permanent: browsers and search engines may remember the destination. The way of asking stays as it was.',
};

/** The redirect types as they are chosen, the usual one first. */
const redirectTitles = {
  307: '307 temporary, keeps the way of asking',
  302: '302 temporary',
  301: '301 permanent',
  308: '308 permanent, keeps the way of asking',
} as const satisfies Record<HopChoices['status'], string>;
const usualFirst: readonly HopChoices['status'][] = [307, 302, 301, 308];

/** The kinds of page as they are chosen. */
const pageTitles = {
  refresh: 'A page of yours, left by refresh',
  script: 'A page of yours, left by script',
  frame: 'The shop in a frame under your address',
} as const satisfies Record<Exclude<HopChoices['page'], 'none'>, string>;

/** Every way a hop can go, in the order and the words in which it is chosen, with the choices it stands for. */
export const hopWays: readonly {
  readonly title: string;
  readonly choices: Pick<HopChoices, 'page'> & Partial<Pick<HopChoices, 'status'>>;
}[] = [
  ...usualFirst.map((status) => ({
    title: redirectTitles[status],
    choices: { page: 'none' as const, status },
  })),
  ...pageKinds.flatMap((page) => (page === 'none' ? [] : [{ title: pageTitles[page], choices: { page } }])),
];

/** What each kind of page means for a visitor, in one sentence. */
export const pageMeaning: Readonly<Record<HopChoices['page'], string>> = {
  none: 'The browser goes straight on; the visitor sees no page of yours.',
  refresh:
    'A page of yours that the browser leaves by itself, without any script. The back button comes back to it.',
  script:
    'A page of yours that goes on by script, and by refresh where scripts are off. The back button skips it.',
  frame:
    'The shop is shown inside a page of yours and the address bar keeps your address. Browsers usually refuse the network’s cookie in a frame, so sales may not be credited.',
};

/** A hop in one or two words, for a list: `307`, `page`, `frame`, `wait 5 s`. */
export const hopName = ({ status, page, wait }: HopChoices): string => {
  if (page === 'none') return String(status);
  if (page === 'frame') return 'frame';
  return wait.seconds > 0 ? `wait ${wait.seconds} s` : 'page';
};

/** What each choice of a hop is called where a link has one of its own. */
export const choiceWords: Readonly<Record<keyof HopChoices, string>> = {
  status: 'redirect type',
  page: 'page between',
  cache: 'kept by browsers',
  hideReferrer: 'referrer',
  pass: 'passed parameters',
  twice: 'two pages',
  wait: 'waiting page',
  frameTitle: 'title of the frame',
  scripts: 'measuring scripts',
  robots: 'index hint',
};

/** How a link hops, as a sentence: `307 temporary, not cached, referrer hidden.` */
export const describeHop = (choices: HopChoices): string => {
  const { status, cache, hideReferrer, pass, page, wait, twice, scripts, robots } = choices;
  const permanent = status === 301 || status === 308;
  const parts =
    page === 'none'
      ? [
          `${status} ${permanent ? 'permanent' : 'temporary'}`,
          permanent && cache
            ? 'cached for a day: later clicks of the same browser are not seen'
            : 'not cached',
        ]
      : [
          page === 'frame'
            ? 'The shop in a frame under your own address'
            : `A page that goes on by ${page}${wait.seconds > 0 ? ` after ${wait.seconds} s` : ' at once'}`,
        ];
  parts.push(
    hideReferrer || (twice && page !== 'none')
      ? 'referrer hidden'
      : 'the network learns the site, not the page',
  );
  if (twice && page !== 'none' && page !== 'frame') parts.push('by way of two pages');
  if (pass === 'all') parts.push('passes every parameter on');
  else if (pass !== 'none' && pass.length > 0) parts.push(`passes ${pass.join(', ')} on`);
  if (page !== 'none' && scripts.length > 0)
    parts.push(`${scripts.length} measuring script${scripts.length > 1 ? 's' : ''}`);
  if (robots === 'index') parts.push('crawlers may index it');
  return `${parts.join(', ')}.`;
};

/**
 * The one sentence of consequence of a choice, from what this link's visitors did.
 *
 * @param clicks requests of people, repeated ones included, in the days looked at
 * @param repeats those of them that came from a visitor who had clicked the same day
 */
export const consequence = (choices: HopChoices, clicks: number, repeats: number): string => {
  const { status, cache, page, wait } = choices;
  const share = clicks > 0 ? Math.round((repeats / clicks) * 100) : undefined;
  if (page === 'frame') return pageMeaning.frame;
  if (page !== 'none')
    return wait.seconds > 0
      ? clicks === 0
        ? `Every visitor waits ${wait.seconds} s.`
        : `Every visitor waits ${wait.seconds} s; at ${clicks} clicks in these days that is ${Math.round((clicks * wait.seconds) / 60)} minutes of waiting.`
      : pageMeaning[page];
  if ((status === 301 || status === 308) && cache)
    return `A browser asks once and skips your counter for a day after that; ${share === undefined ? 'nobody has clicked yet, so nobody knows how many that would be' : `${share} % of this link’s clicks came again on the same day`}. A new destination reaches such a browser a day late.`;
  if (status === 301 || status === 308)
    return 'Search engines may take the destination for the lasting address; browsers still ask each time, so every click is counted.';
  return redirectMeaning[status];
};
