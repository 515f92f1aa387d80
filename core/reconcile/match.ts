import { isPlaceholder } from '#core/conversions';
import { element, isUlidBeginning, ulidTime } from '#core/catalogue';

/** How a conversion found its click, from sure to not at all. */
export type MatchLevel =
  /** The ID is the same, letter for letter. */
  | 'exact'
  /** The same after spaces and case are set right. */
  | 'folded'
  /** Cut short, and only one click begins so. */
  | 'prefix'
  /** Its report row carries the ID that the postback lacks, or the other way round. */
  | 'row'
  /** It carries none itself; the first of its transaction does. */
  | 'recurring'
  /** A person chose it. */
  | 'chosen'
  /** It carries none; a link holds the coupon that was used. */
  | 'coupon'
  /** Only one click fits by program and time; never accepted by itself. */
  | 'probable'
  /** It carries nothing, or a placeholder the network should have replaced. */
  | 'unfilled'
  /** In the form of ours and of a time our records cover, but no such click is there. */
  | 'missing'
  /** A click on a link of another network. */
  | 'another network'
  /** In the form of ours, and cut so short that it could be any of several. */
  | 'too short'
  /** Not in the form of our IDs. */
  | 'not ours';

/** A click found, or why there is none. */
export interface Match {
  readonly level: MatchLevel;
  /** Row of the click; -1 where there is none. */
  readonly row: number;
  /** A plain sentence. */
  readonly because: string;
  /** Row of the click it names, on a link of another network. */
  readonly other?: number;
}

/** What matching needs to know of the clicks. */
export interface ClickIndex {
  /** Rows whose IDs begin with a text, in either case. */
  beginningWith(text: string): { readonly count: number; readonly row: (n: number) => number };
  click(row: number): string;
  /** Network its link belongs to; empty where to none. */
  networkOf(row: number): string;
  /** True where its link sends, or sent, visitors to a network. */
  isOf(row: number, network: string): boolean;
  /** Whether the records of clicks reach over a moment. */
  covers(at: number): boolean;
  /** Whether the requests of a moment may have been rolled up. */
  isRolledUp(at: number): boolean;
}

/** Fewest characters by which a click ID that was cut short is known. */
const fewest = 12;
/** Most clicks that are looked through for the one of that network. */
const mostCandidates = 1000;

/** By how many characters came, what is then said. */
const keptWords = Array.from(
  { length: 27 },
  (_, kept) => `The network keeps ${kept} characters of the ID; only one click begins with these.`,
);

/** True for a value that a network should have replaced, or left empty. */
export const isUnfilled = (click: string): boolean => click.trim() === '' || isPlaceholder(click.trim());

const none = (level: MatchLevel, because: string): Match => ({ level, row: -1, because });

/**
 * Matches what came back as a click ID, among the clicks of that network's links: exact; the same after trimming and folding
 * case; a beginning of at least twelve characters that only one click has; else why not.
 */
export const matchClick = (click: string, network: string, clicks: ClickIndex): Match => {
  if (isUnfilled(click))
    return none(
      'unfilled',
      click.trim() === ''
        ? 'It came without a click ID.'
        : `${click.trim()} arrived as it stands: the network did not replace it.`,
    );
  const text = click.trim();
  if (text.length > 26 || !isUlidBeginning(text))
    return none('not ours', 'The ID does not have the form of ours.');
  if (text.length < fewest)
    return none(
      'too short',
      `Only ${text.length} characters of the ID came, and it takes ${fewest} to be sure whose they are.`,
    );
  const found = clicks.beginningWith(text);
  const matched = (level: MatchLevel, row: number, because: string): Match => ({ level, row, because });
  if (text.length === 26 && found.count > 0) {
    const row = found.row(0);
    // A link that belongs to no network tells nothing.
    if (!clicks.isOf(row, network) && clicks.networkOf(row) !== '')
      return {
        ...none('another network', 'The click with this ID is on a link of another network.'),
        other: row,
      };
    return clicks.click(row) === click
      ? matched('exact', row, 'The click ID is the same, letter for letter.')
      : matched('folded', row, 'The click ID is the same once its case and spaces are set right.');
  }
  if (found.count > 0 && found.count <= mostCandidates) {
    let only = -1;
    let count = 0;
    for (let n = 0; n < found.count; n++) {
      const row = found.row(n);
      if (!clicks.isOf(row, network)) continue;
      only = row;
      count += 1;
    }
    if (count === 1) return matched('prefix', only, element(keptWords[text.length]));
    if (found.count === 1 && clicks.networkOf(found.row(0)) !== '')
      return {
        ...none('another network', 'The only click that begins so is on a link of another network.'),
        other: found.row(0),
      };
    if (count > 1) return none('missing', `${count} clicks begin with these ${text.length} characters.`);
  }
  const at = ulidTime(text);
  if (at !== undefined && clicks.isRolledUp(at))
    return none(
      'missing',
      'The ID has the form of ours, but its day is kept here as daily counts only. Bring the whole journal back in Setup to find the click.',
    );
  return at !== undefined && clicks.covers(at)
    ? none(
        'missing',
        'The ID has the form of ours and a time inside our records, but no such click is there.',
      )
    : none('not ours', 'The ID has the form of ours, but its time lies outside our records.');
};
