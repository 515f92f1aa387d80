import { Agent } from 'node:http';
import type { ChangesPage, Link } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';
import { send } from '../../standins/index.ts';
import type { ServerAddress } from '../client.ts';
import { call, changeOf, sendChanges } from '../client.ts';

/** What a server said it has. */
export interface Acknowledged {
  /** Transactions of postbacks. */
  readonly postbacks: Set<string>;
  readonly links: Set<string>;
}

export const nothingAcknowledged = (): Acknowledged => ({ postbacks: new Set(), links: new Set() });

let txn = 0;
let loads = 0;

/**
 * Sends postbacks, hops and changes as quickly as they are answered, and notes what was acknowledged. A server that ends
 * meanwhile is no error.
 *
 * @param what the key of a network's postbacks, and a link that the changes copy
 * @returns the function that ends it
 */
export const putUnderLoad = (
  server: ServerAddress,
  { key, link }: { readonly key: string; readonly link: Link },
  acknowledged: Acknowledged,
): (() => Promise<void>) => {
  const agent = new Agent({ keepAlive: true });
  const { port } = server;
  const load = ++loads;
  let running = true;
  const postbacks = async () => {
    while (running) {
      const id = `T${++txn}`;
      const answer = await send(`http://localhost:${port}/postback/${key}?txn=${id}&amount=1`, {
        agent,
      }).catch(() => undefined);
      if (answer?.status === 200) acknowledged.postbacks.add(id);
    }
  };
  const hops = async () => {
    while (running)
      await send(`http://see.nightledge.localhost:${port}/saturn~load`, { agent }).catch(() => undefined);
  };
  const changes = async () => {
    for (let n = 0; running; n++) {
      const id = `lnk_r${load}n${n}`;
      const made = changeOf('link', { ...link, id, slug: `r${load}-${n}`, aliases: [] });
      const answer = await sendChanges(server, [made]).catch(() => undefined);
      if (answer?.refused.length === 0) acknowledged.links.add(id);
    }
  };
  const work = [postbacks(), postbacks(), postbacks(), hops(), hops(), changes()];
  return async () => {
    running = false;
    await Promise.all(work);
    agent.destroy();
  };
};

/** How often each transaction stands in a journal. */
export const keptBy = (journal: readonly JournalRecord[]): Map<string, number> => {
  const kept = new Map<string, number>();
  for (const record of journal)
    if (record.kind === 'postback') {
      const id = new URLSearchParams(record.query).get('txn') ?? '';
      kept.set(id, (kept.get(id) ?? 0) + 1);
    }
  return kept;
};

/** Every record a server's change feed tells of. */
export const recordsOf = async (server: ServerAddress): Promise<Set<string>> => {
  const records = new Set<string>();
  for (let after = 0, more = true; more;) {
    const page = JSON.parse((await call(server, 'GET', `/changes?after=${after}`)).body) as ChangesPage;
    for (const { record } of page.changes) records.add(record);
    ({ version: after, more } = page);
  }
  return records;
};
