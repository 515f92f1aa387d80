import * as v from 'valibot';

/** How access logs are to be read. */
export const logReadingBody = v.strictObject({
  /** The domain of lines that name no host; empty where they do, or where there is one domain alone. */
  host: v.optional(v.pipe(v.string(), v.maxLength(300)), ''),
  /** Only says what would be brought in. */
  dryRun: v.boolean(),
  /** How many files follow. */
  files: v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(1000)),
  by: v.optional(v.pipe(v.string(), v.maxLength(80)), ''),
});
export type LogReading = v.InferOutput<typeof logReadingBody>;

/** Lines of one sort: how many, and what they asked for most often, with how often. */
export interface LinesOfSort {
  readonly count: number;
  readonly most: readonly (readonly [string, number])[];
}

/** What reading access logs came to so far. Each line is counted in one place. */
export interface LogReport {
  readonly files: readonly {
    readonly name: string;
    /** How it is written; undefined where that is not known yet, or where it is no log. */
    readonly form: 'combined' | 'extended' | 'json' | undefined;
    readonly problem: string | undefined;
  }[];
  readonly lines: number;
  /** Requests of links that are brought in, or would be; by link, and when the first and the last of them came. */
  readonly fresh: LinesOfSort;
  /** Milliseconds since 1970 UTC; 0 where there is none. */
  readonly from: number;
  readonly until: number;
  /** Requests that are in the journal already: this server answered them, or they were brought in before. */
  readonly known: number;
  /** Requests for something else than a link of ours, by their path. */
  readonly noLink: LinesOfSort;
  /** Requests to hosts that are no domain of ours, by their host. */
  readonly otherHosts: LinesOfSort;
  /** Requests of which nobody can say to which of several domains they came. */
  readonly noHost: number;
  /** Requests of a time of which only daily counts are kept: nobody could tell whether they are in them. */
  readonly rolledUp: number;
  /** Comments, headings, empty lines, noise of scanners. */
  readonly none: number;
  readonly unread: {
    readonly count: number;
    /** The first of them, cut to a length that can be shown. */
    readonly first: readonly {
      readonly file: string;
      readonly line: number;
      readonly text: string;
      readonly why: string;
    }[];
  };
}

/** A file of a log, in the pieces in which it is sent. */
export interface LogFile {
  readonly name: string;
  readonly pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>;
}
/** Most bytes of one piece: web servers in front let it through, and it arrives within a minute on a slow line. */
export const logPieceBytes = 1024 * 1024;

/** One call of the server's API; throws where it fails. */
export type AskLogs = (path: string, body: object | Uint8Array) => Promise<unknown>;

/**
 * Sends access logs to the server and yields what came of them so far, at last what came of all. Ending the loop ends the reading; what
 * was brought in stays, and is known when the same is sent again.
 *
 * @throws what `ask` throws
 */
export const sendLogs = async function* (
  ask: AskLogs,
  reading: LogReading,
  files: AsyncIterable<LogFile> | Iterable<LogFile>,
): AsyncGenerator<{ readonly report: LogReport; readonly sent: number; readonly isWhole: boolean }> {
  const { id } = (await ask('', reading)) as { id: string }; // as docs/server.md has it
  const reports = (path: string, body: object | Uint8Array) =>
    ask(`/${id}${path}`, body) as Promise<LogReport>;
  let sent = 0;
  let isWhole = false;
  try {
    for await (const { name, pieces } of files) {
      await reports('/file', { name });
      let at = 0;
      for await (const piece of pieces) {
        const report = await reports(`?at=${at}`, piece);
        at += piece.byteLength;
        sent += piece.byteLength;
        yield { report, sent, isWhole };
      }
    }
    const report = await reports('/end', {});
    isWhole = true;
    yield { report, sent, isWhole };
  } finally {
    if (!isWhole) await ask(`/${id}/stop`, {}).catch(() => undefined);
  }
};
