import type { RecordKind } from '#core/catalogue';
import { changesPerCall } from '#core/catalogue';
import type { Row, Waiting } from './database.ts';

/** A record may rest on those of the kinds before its own, so it is sent after them. */
const order: readonly RecordKind[] = [
  'domain',
  'network',
  'program',
  'account',
  'link',
  'settings',
  'rate',
  'report',
  'decision',
  'month',
  'payment',
  'source',
  'cost',
  'choice',
  'promotion',
  'product',
  'picture',
  'kit',
  'page',
];

/** Where a change stands among those that wait: what is removed goes last, and before what it rests on. */
const placeInOrder = ({ kind, value }: Waiting['change']): number =>
  value === null ? 2 * order.length - order.indexOf(kind) : order.indexOf(kind);

/** The records that a record rests on, where it says so. */
const restsOn = (value: Waiting['change']['value']): string[] =>
  ['domain', 'network', 'program'].flatMap((field) => {
    const id = value?.[field];
    return typeof id === 'string' && id !== '' ? [id] : [];
  });

/** True for what the server refused, or where a person has to choose first. */
export const isStuck = ({ refusal, theirs }: Waiting): boolean =>
  refusal !== undefined || theirs !== undefined;

/**
 * The record because of which another one has to stay here: it rests on one that no server has and that is refused itself.
 * Undefined where nothing holds it back.
 */
export const heldBackBy = (
  { change }: Waiting,
  rows: ReadonlyMap<string, Row>,
  waiting: ReadonlyMap<string, Waiting>,
): string | undefined =>
  restsOn(change.value).find((id) => {
    const base = waiting.get(id);
    return base !== undefined && isStuck(base) && rows.get(id)?.stored === undefined;
  });

/** What is sent of what waits: what may have arrived already, again, before anything newer. */
export const toSend = ({ change, inFlight }: Waiting): Waiting['change'] => inFlight ?? change;

/** Bytes of a change as it is sent. */
export const bytesOf = (change: Waiting['change']): number =>
  new TextEncoder().encode(JSON.stringify(change)).length;

/**
 * What goes with the next call, in the order in which one may rest on another: as many changes as fit into so many bytes,
 * and one at least. Only those that go are measured: ten thousand at once would stop the screen.
 *
 * @param stays tells what is kept here for another reason
 */
export const nextBatch = (
  rows: ReadonlyMap<string, Row>,
  waiting: ReadonlyMap<string, Waiting>,
  mostBytes: number,
  stays: (record: string) => boolean,
): Waiting[] => {
  const inOrder = [...waiting.values()]
    .filter((w) => !isStuck(w))
    .sort((a, b) => placeInOrder(a.change) - placeInOrder(b.change) || a.change.at - b.change.at);
  const batch: Waiting[] = [];
  let bytes = 0;
  for (const w of inOrder) {
    if (batch.length === changesPerCall) break;
    if (stays(w.record) || heldBackBy(w, rows, waiting) !== undefined) continue;
    bytes += bytesOf(toSend(w));
    if (batch.length > 0 && bytes > mostBytes) break;
    batch.push(w);
  }
  return batch;
};
