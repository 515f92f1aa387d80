import type { Conversion } from '#core/conversions';
import type { PostbackRecord } from '#core/visits';
import type { Case } from './cases.ts';
import type { Unit } from './unit.ts';
import { unitAt } from './unit.ts';

/** One line of a claim: what supports it and nothing about anybody else. */
export interface ClaimLine {
  readonly cause: string;
  readonly because: string;
  readonly txn: string;
  readonly event: string;
  /** ISO 8601. */
  readonly at: string;
  readonly click: string;
  readonly clickedAt: string;
  readonly link: string;
  readonly ourAmount: number | null;
  readonly ourCurrency: string;
  readonly theirAmount: number | null;
  readonly theirCurrency: string;
  readonly theirState: string;
  /** Why nobody can say that the network itself told us of it; empty where it did. */
  readonly unverified: string;
  /** The postbacks as they came: query and body, with the time; no address of anybody. */
  readonly postbacks: readonly {
    readonly at: string;
    readonly via: string;
    readonly query: string;
    readonly body: string | null;
    /** The body's bytes in base64, where they are no text. */
    readonly bytes?: string;
  }[];
}

/** What makes a conversion unverified, in a word for a column; empty where nothing does. */
export const unverifiedWord = (conversion: Pick<Conversion, 'unverified' | 'trusted'> | undefined): string =>
  conversion?.unverified === undefined
    ? ''
    : `${conversion.unverified}${conversion.trusted ? ', counted all the same' : ''}`;

const iso = (at: number | undefined): string => (at === undefined ? '' : new Date(at).toISOString());

/**
 * The evidence for a claim. Of a visitor nothing leaves: no key, no user agent, no country, no page.
 *
 * @param clickOf ID and time of the click in a row
 * @param slugOf short address of a link
 */
export const claimLine = (
  one: Pick<Case, 'kind' | 'because'>,
  unit: Unit,
  postbacks: readonly PostbackRecord[],
  clickOf: (row: number) => { readonly click: string; readonly at: number },
  slugOf: (link: string) => string,
): ClaimLine => {
  const click = unit.match.row < 0 || unit.match.level === 'probable' ? undefined : clickOf(unit.match.row);
  return {
    cause: one.kind,
    because: one.because,
    txn: unit.conversion?.txn || unit.reported?.txn || '',
    event: unit.conversion?.event ?? unit.reported?.event ?? '',
    at: iso(unitAt(unit)),
    click: click?.click ?? '',
    clickedAt: iso(click?.at),
    link: unit.link === '' ? '' : slugOf(unit.link),
    ourAmount: unit.ours?.amount ?? null,
    ourCurrency: unit.ours?.currency ?? '',
    theirAmount: unit.theirs?.amount ?? null,
    theirCurrency: unit.theirs?.currency ?? '',
    theirState: unit.theirs?.status ?? '',
    unverified: unverifiedWord(unit.conversion),
    postbacks: postbacks.map(({ at, via, query, body, bytes }) => ({
      at: iso(at),
      via,
      query,
      body,
      ...(bytes !== undefined && { bytes }),
    })),
  };
};
