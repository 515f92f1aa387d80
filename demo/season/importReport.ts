import type { Network, Report, ReportProfile } from '#core/catalogue';
import {
  foldReports,
  goneRows,
  guessReport,
  learnProfile,
  likelyCover,
  readReport,
  reportParts,
} from '#core/conversions';
import { readTable } from '#core/formats';
import { dayIn } from '#core/hop';
import type { ReportFile } from './reports.ts';

/** What became of a report that was brought in. */
export interface ImportedReport {
  readonly parts: Report[];
  /** How its network's reports are read from now on. */
  readonly profile: ReportProfile;
  /** What a person would have been asked, and the rows that could not be read: a season has neither. */
  readonly asks: readonly string[];
  readonly bad: number;
}

/**
 * Reads a report as a person does who accepts what is proposed, and says what an earlier one of its days listed that it does not.
 *
 * @param earlier what was brought in before
 * @param at when it is brought in; milliseconds since 1970 UTC
 */
export const importReport = (
  { name, text }: Pick<ReportFile, 'name' | 'text'>,
  network: Network,
  earlier: readonly Report[],
  batch: string,
  at: number,
): ImportedReport => {
  const table = readTable(text);
  const reading = guessReport(table, network);
  const { bad, ...read } = readReport(table, reading.profile, network);
  const cover = likelyCover(read.from, read.until, dayIn(network.zone, at));
  const isCovered = (moment: number) => {
    const day = dayIn(network.zone, moment);
    return cover.from <= day && day <= cover.until;
  };
  const known = [...foldReports(earlier).values()].filter((row) => row.network === network.id);
  const keys = new Set(read.rows.map(({ key }) => key));
  const gone = read.rows.length === 0 ? [] : goneRows(known, { keys, txns: new Set() }, isCovered);
  return {
    parts: reportParts({ ...read, ...cover, network: network.id, batch, file: name, at, gone }),
    profile: learnProfile(network.report, reading.profile),
    asks: reading.asks,
    bad: bad.length,
  };
};
