import { dequal } from 'dequal';
import type { Change, FieldConflict, RecordKind, StoredChange, Whose } from '#core/catalogue';
import { checkRecord, keepingPlaced, mergeRecord } from '#core/catalogue';
import type { Row, Stored, Waiting } from './database.ts';
import type { Entry } from './recordStore.ts';

/** What a new change needs from outside. */
export interface ChangeMaker {
  changeId(): string;
  /** Milliseconds since 1970 UTC, by this browser's clock. */
  now(): number;
  /** The person's name. */
  by(): string;
}

/** What a person saves: a whole record, or its removal. */
export interface Edit {
  readonly kind: RecordKind;
  readonly record: string;
  readonly value: object | null;
  /** Edits made as one step carry the same. */
  readonly step?: string | undefined;
  /** The row as it was when the edit began; left out where it is made of what stands now. */
  readonly began?: Row | undefined;
}

/** The version of what no server has. */
const nowhere = 0;

/** A record as the server keeps it, so that both say the same of it: with its defaults, and its host in ASCII. */
const asKept = (kind: RecordKind, value: object): Record<string, unknown> => {
  const plain: Record<string, unknown> = JSON.parse(JSON.stringify(value));
  const checked = checkRecord(kind, plain);
  return checked.ok ? { ...checked.value } : plain;
};

/** A change of a record to what it already is as the server keeps it. */
const changeOf = (
  make: ChangeMaker,
  { kind, record, value, step }: Omit<Edit, 'began' | 'value'> & { readonly value: Change['value'] },
  revision: number,
): Change => ({
  change: make.changeId(),
  kind,
  record,
  revision,
  by: make.by(),
  ...(step !== undefined && { step }),
  at: make.now(),
  value,
});

const makeChange = (
  make: ChangeMaker,
  { kind, record, value }: Omit<Edit, 'began'>,
  revision: number,
): Change => changeOf(make, { kind, record, value: value && asKept(kind, value) }, revision);

export const storedOf = ({ revision, version, change, by, at }: StoredChange): Stored => ({
  revision,
  version,
  change,
  by,
  at,
});

/** The row of a record as the server has it. */
export const rowOf = (stored: StoredChange): Row => ({
  record: stored.record,
  kind: stored.kind,
  value: stored.value,
  stored: storedOf(stored),
});

/** A row's newest stored version as a change, from what is known of it here. */
const storedChangeOf = (
  { record, kind }: Row,
  stored: Stored,
  value: Record<string, unknown> | null,
): StoredChange => ({
  record,
  kind,
  value,
  ...stored,
});

/**
 * What both versions began from. Where there was no record and theirs is a removal, it had been taken there in between and
 * somebody removed it: that is no common beginning.
 */
const baseOf = ({ from }: Waiting, theirs: StoredChange): Waiting['from'] =>
  from === null && theirs.value === null ? undefined : from;

/** Where a person has to choose between two versions of a record: at these fields, or at the record itself. */
export const conflictsOf = (waiting: Waiting): readonly FieldConflict[] =>
  waiting.theirs
    ? mergeRecord(baseOf(waiting, waiting.theirs), waiting.change.value, waiting.theirs.value).conflicts
    : [];

/**
 * What becomes of a record of which the server has another version than the edit that waits was made on: one merged version
 * that goes on waiting; nothing more to send where that is theirs; or both, where a person has to choose.
 */
export const meetTheirs = (waiting: Waiting, theirs: StoredChange, make: ChangeMaker): Entry => {
  const { record, kind, value: mine } = waiting.change;
  const merge = mergeRecord(baseOf(waiting, theirs), mine, theirs.value);
  const { conflicts } = merge;
  const value = keepingPlaced(kind, merge.value && { ...merge.value }, theirs.value);
  if (conflicts.length === 0 && dequal(value, theirs.value)) return { record, row: rowOf(theirs) };
  // Two changes that are right each for itself may be wrong together.
  const isWrong = value !== null && !checkRecord(kind, value).ok;
  const row: Row = { record, kind, value: mine, stored: storedOf(theirs) };
  const { change: edit, from } = waiting;
  if (conflicts.length > 0 || isWrong)
    return { record, row, waiting: { record, change: edit, from, theirs } };
  const change = {
    ...edit,
    change: make.changeId(),
    revision: theirs.revision + 1,
    value,
  };
  return {
    record,
    row: { ...row, value },
    waiting: { record, from: theirs.value, change },
  };
};

type Path = readonly string[];
const isFields = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

const at = (value: unknown, path: Path): unknown =>
  path.reduce<unknown>((part, name) => (isFields(part) ? part[name] : undefined), value);

/** The same with another value at a path; a value of undefined takes the field away. */
const withAt = (value: unknown, [name, ...rest]: Path, to: unknown): unknown => {
  if (name === undefined) return to;
  const fields = isFields(value) ? value : {};
  const next = withAt(fields[name], rest, to);
  const { [name]: _, ...others } = fields;
  return next === undefined ? others : { ...others, [name]: next };
};

/**
 * What saving an edit writes. What others changed since it began is kept, field by field; where they changed the very field
 * it changes, both versions are kept until a person chooses.
 */
export const afterEdit = (
  edit: Edit,
  row: Row | undefined,
  waiting: Waiting | undefined,
  make: ChangeMaker,
): Entry => {
  const { record, kind, began } = edit;
  const stored = row?.stored;
  const current = row?.value ?? null;
  const server = waiting ? waiting.from : current;
  const wanted = edit.value && asKept(kind, edit.value);
  const merged =
    began && !dequal(began.value, current)
      ? mergeRecord(began.value, wanted, current)
      : { value: wanted, conflicts: [] };
  // What answers at the server, or may answer by now, goes on answering whatever the edit makes of it.
  const placed = [
    server === undefined ? current : server,
    waiting?.inFlight?.value,
    waiting?.theirs?.value,
    waiting?.news?.value,
  ];
  const value = placed.reduce<Record<string, unknown> | null>(
    (next, at) => keepingPlaced(kind, next, at ? { ...at } : null),
    merged.value && { ...merged.value },
  );
  const isKnown = stored ?? waiting?.inFlight ?? waiting?.theirs ?? (waiting && waiting.from !== null);
  // No server ever heard of it: nothing needs to be sent.
  if (value === null && !isKnown) return { record, row: { record, kind, value: null } };
  const { step } = edit;
  const change = changeOf(make, { kind, record, step, value }, (stored?.revision ?? 0) + 1);
  const { inFlight, sentTo, news } = waiting ?? {};
  const next: Waiting = {
    record,
    from: server,
    change,
    ...(inFlight && { inFlight }),
    ...(sentTo !== undefined && { sentTo }),
    ...(news && { news }),
  };
  const overtaken = merged.conflicts.filter(({ path, theirs }) => dequal(at(server, path), theirs));
  if (!began || overtaken.length === 0) {
    if (waiting?.theirs) return meetTheirs(next, waiting.theirs, make);
    return { record, row: { record, kind, value: change.value, ...(stored && { stored }) }, waiting: next };
  }
  // As if it had begun from what the server has, but for the fields that somebody changed since.
  const from = overtaken.reduce<unknown>(
    (base, { path }) => withAt(base, path, at(began.value, path)),
    server,
  );
  const base = isFields(from) ? from : began.value;
  const theirs =
    waiting?.theirs ??
    (row && stored && storedChangeOf(row, stored, isFields(server) ? { ...server } : null));
  if (theirs) return meetTheirs({ ...next, from: base }, theirs, make);
  return { record, row: { record, kind, value: change.value, ...(stored && { stored }) }, waiting: next };
};

/** Offers a record to a server that lacks it; a removal too, since somebody else may still bring the record. */
const offer = (row: Row, value: object | null, make: ChangeMaker): Entry => {
  const { record, kind } = row;
  const change = makeChange(make, { kind, record, value }, 1);
  return { record, row: { record, kind, value: change.value }, waiting: { record, from: undefined, change } };
};

/** What it means that the server took what was in flight: the record is live, or a newer edit builds on that. */
const afterTaken = (now: Waiting, row: Row, sent: Change, version: number): Entry => {
  const { record, revision, change, by, at: madeAt } = sent;
  const stored: Row = { ...row, stored: { revision, version, change, by, at: madeAt } };
  if (now.change.change === change) return { record, row: stored };
  const next = { ...now.change, revision: revision + 1 };
  return { record, row: stored, waiting: { record, from: sent.value, change: next } };
};

/** What the server said of a change that was sent. */
export type Outcome =
  | { readonly taken: number }
  | { readonly newest: StoredChange }
  | { readonly refusal: NonNullable<Waiting['refusal']>; readonly theirs?: StoredChange | undefined };

const newerOf = (a: StoredChange | undefined, b: StoredChange | undefined): StoredChange | undefined =>
  a && b ? (a.version > b.version ? a : b) : (a ?? b);

/**
 * What the server's answer to a sent change means for its record.
 *
 * @param sent the change as it was sent
 * @param now what waits of the record now; it may have been edited while the change was on its way
 * @param isSure it was sent to no other server, or generation of it, before: what is refused was never taken anywhere
 */
export const afterAnswer = (
  sent: Change,
  now: Waiting,
  row: Row,
  outcome: Outcome,
  isSure: boolean,
  make: ChangeMaker,
): Entry => {
  const { record } = sent;
  // An answer may be older than what was heard since: the newer of both counts.
  const { news } = now;
  if ('taken' in outcome && !(news && news.version > outcome.taken))
    return afterTaken(now, row, sent, outcome.taken);
  if (!('refusal' in outcome)) {
    // It had come long before, and others have built on it since.
    const newest = newerOf('newest' in outcome ? outcome.newest : undefined, news);
    if (!newest) throw new Error('What was built on it came before the answer.');
    return now.change.change === sent.change
      ? { record, row: rowOf(newest) }
      : meetTheirs({ ...now, from: sent.value }, newest, make);
  }
  const { refusal } = outcome;
  const theirs = newerOf(outcome.theirs, news);
  // What was taken and lost again may be in theirs all the same: somebody who saw it may have brought it back.
  if (theirs) return meetTheirs(isSure ? now : { ...now, from: undefined }, theirs, make);
  // The server has lost what it builds on.
  if (refusal.path === 'revision') return offer(row, now.change.value, make);
  const { inFlight: _1, sentTo: _2, ...rest } = now;
  return { record, waiting: now.change.change === sent.change ? { ...rest, refusal } : rest };
};

/** What a change of the feed means for its record; undefined where it means nothing. */
export const afterNews = (
  theirs: StoredChange,
  row: Row | undefined,
  waiting: Waiting | undefined,
  make: ChangeMaker,
): Entry | undefined => {
  const { record } = theirs;
  if ((row?.stored?.version ?? 0) >= theirs.version) return undefined;
  if (!waiting || !row) return { record, row: rowOf(theirs) };
  if (waiting.theirs?.version === nowhere) return undefined;
  const { inFlight } = waiting;
  if (inFlight) {
    // What is in flight may be in theirs already. It is sent again, and the answer says so.
    return theirs.change === inFlight.change
      ? afterTaken(waiting, row, inFlight, theirs.version)
      : { record, waiting: withNews(waiting, theirs) };
  }
  return meetTheirs(waiting, theirs, make);
};

/** What waits, with the news there is of it now; what came of a story the server no longer tells is none. */
const withNews = ({ news: _, ...waiting }: Waiting, news?: StoredChange): Waiting => ({
  ...waiting,
  ...(news && { news }),
});

/** The server lost what a person was to choose against: it stays here beside theirs until they chose, with no place there. */
const stillToChoose = (row: Row, waiting: Waiting, theirs: StoredChange): Entry => {
  const { record, kind, value } = row;
  return {
    record,
    row: { record, kind, value },
    waiting: { ...waiting, theirs: { ...theirs, version: nowhere } },
  };
};

/**
 * What a record means that is compared with all that the server has, after an older folder was put back there or a digest
 * differed. What the server lost is offered again, what is newer there is taken, and where both went on, both are merged.
 *
 * @param fork up to which version both tell the same story
 */
export const afterComparison = (
  row: Row,
  waiting: Waiting | undefined,
  theirs: StoredChange | undefined,
  fork: number,
  make: ChangeMaker,
): Entry | undefined => {
  const { record, kind, stored } = row;
  const mine = waiting ? waiting.change.value : row.value;
  if (waiting?.theirs && waiting.theirs.version > fork && waiting.theirs.change !== theirs?.change)
    return stillToChoose(row, waiting, waiting.theirs);
  if (!theirs) {
    if (!stored) return waiting && { record, waiting: withNews(waiting) }; // it waits to be sent, as it did before
    return offer(row, mine, make);
  }
  if (stored?.change === theirs.change)
    return stored.version === theirs.version && !waiting?.news
      ? undefined
      : { record, row: { ...row, stored: storedOf(theirs) }, waiting: waiting && withNews(waiting) };
  if (waiting?.inFlight?.change === theirs.change)
    return afterNews(theirs, { record, kind, value: row.value }, waiting, make);
  // It is sent again, and the answer says more.
  if (!stored && waiting?.inFlight) return { record, waiting: withNews(waiting, theirs) };
  if (!stored) return waiting ? meetTheirs(waiting, theirs, make) : { record, row: rowOf(theirs) };
  if (stored.version <= fork && theirs.version > stored.version) return afterNews(theirs, row, waiting, make);
  const change = makeChange(make, { kind, record, value: mine }, theirs.revision + 1);
  const from = theirs.version <= fork ? theirs.value : undefined;
  return meetTheirs({ record, from, change }, theirs, make);
};

/** What a record becomes when all of this browser is offered to another server than it is from. */
export const afterMove = (
  row: Row,
  waiting: Waiting | undefined,
  theirs: StoredChange | undefined,
  make: ChangeMaker,
): Entry => {
  const { record, kind } = row;
  const mine = waiting ? waiting.change.value : row.value;
  if (waiting?.theirs) return stillToChoose(row, waiting, waiting.theirs);
  if (!theirs) return mine === null && !row.stored && !waiting ? { record, row } : offer(row, mine, make);
  const change = makeChange(make, { kind, record, value: mine }, theirs.revision + 1);
  return meetTheirs({ record, from: undefined, change }, theirs, make);
};

/** What a person's choice makes of two versions: field by field, mine on top of theirs or theirs. */
export const afterChoice = (
  waiting: Waiting,
  theirs: StoredChange,
  whose: (conflict: FieldConflict) => Whose,
  make: ChangeMaker,
): Entry => {
  const { record, kind } = waiting.change;
  const merged = mergeRecord(baseOf(waiting, theirs), waiting.change.value, theirs.value, whose).value;
  const value = keepingPlaced(kind, merged && { ...merged }, theirs.value);
  if (theirs.version === nowhere) return offer({ record, kind, value }, value, make);
  if (dequal(value, theirs.value)) return { record, row: rowOf(theirs) };
  const change = makeChange(make, { kind, record, value }, theirs.revision + 1);
  return {
    record,
    row: { record, kind, value: change.value, stored: storedOf(theirs) },
    waiting: { record, from: theirs.value, change },
  };
};
