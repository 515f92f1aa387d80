import { escapeHtml } from '#core/hop';

/** How the script is to work on a person's pages. */
export interface ScriptChoices {
  /** Where the source in its short addresses comes from. */
  readonly sourceFrom: 'nothing' | 'path' | 'visit' | 'name';
  /** The source, where it is a name. */
  readonly source: string;
  readonly addresses: boolean;
  readonly keywords: boolean;
  readonly marks: boolean;
  readonly clicks: boolean;
  readonly reading: boolean;
  /** The source of a visit stays known until the tab is closed. */
  readonly keeps: boolean;
  /** Selector of what keywords are linked in; empty for the whole page. */
  readonly within: string;
}

export const usualScript: ScriptChoices = {
  sourceFrom: 'path',
  source: '',
  addresses: true,
  keywords: true,
  marks: true,
  clicks: true,
  reading: true,
  keeps: false,
  within: '',
};

const chosen = (of: Readonly<Record<string, boolean>>): string | undefined =>
  Object.values(of).every(Boolean)
    ? undefined
    : Object.keys(of)
        .filter((name) => of[name])
        .join(' ');

/**
 * The element that puts the script on a page.
 *
 * @param address of the script
 */
export const scriptTag = (address: string, choices: ScriptChoices): string => {
  const { sourceFrom, source, addresses, keywords, marks, clicks, reading, keeps, within } = choices;
  const attributes: readonly (readonly [name: string, value: string | undefined])[] = [
    ['source-from', sourceFrom === 'path' || sourceFrom === 'visit' ? sourceFrom : undefined],
    ['source', sourceFrom === 'name' && source !== '' ? source : undefined],
    ['keep', keeps && sourceFrom === 'visit' ? 'session' : undefined],
    ['do', chosen({ addresses, keywords, marks })],
    ['count', chosen({ clicks, reading })],
    ['within', within.trim() === '' ? undefined : within.trim()],
  ];
  const written = attributes.flatMap(([name, value]) =>
    value === undefined ? [] : [` data-${name}="${escapeHtml(value)}"`],
  );
  return `<script src="${escapeHtml(address)}"${written.join('')} defer></script>`;
};

/**
 * What a page's content security policy has to allow for the script (CSP 3, §6.1): the link domain as a source of scripts, and of
 * connections where something is counted.
 */
export const scriptPolicy = (origin: string, { clicks, reading }: ScriptChoices): string =>
  `script-src 'self' ${origin}${clicks || reading ? `; connect-src 'self' ${origin}` : ''}`;

/**
 * What a site's privacy page has to say of the script, in plain words; whether more is asked for depends on where its readers live.
 *
 * @param cookieDays for how many days the link domain's cookie knows a visitor; 0 where it sets none
 */
export const privacySentence = (host: string, choices: ScriptChoices, cookieDays: number): string => {
  const { clicks, reading, keeps, sourceFrom } = choices;
  return [
    `Links to shops on this site go through ${host}, which is ours: it is told which link was pressed, on which page, and with which browser.`,
    clicks
      ? `Of links that lead to a shop directly, your browser tells it the same when you press them.`
      : '',
    reading
      ? `When you leave a page, your browser tells it for how long and how far down the page was read, whether you scrolled, and by which link of ours you came.`
      : '',
    cookieDays > 0
      ? `When you follow a link, ${host} sets a cookie by which it knows your browser again for ${cookieDays} ${cookieDays === 1 ? 'day' : 'days'}.`
      : `Your address is not kept: by a key that is thrown away each night, your browser is known again for that day alone.`,
    keeps && sourceFrom === 'visit'
      ? `Which mailing or page led you here is kept in your browser until you close the tab; nothing else is stored there.`
      : `Nothing is stored in your browser${cookieDays > 0 ? ' besides' : ''}.`,
  ]
    .filter((sentence) => sentence !== '')
    .join(' ');
};
