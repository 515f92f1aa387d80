import { isbot } from 'isbot';
import type { JournalRecord } from '#core/visits';

/** A request for a link, or a click that a page told of. */
export interface Request {
  readonly at: number;
  readonly click: string;
  readonly link: string;
  readonly source: string;
  readonly visitor: string;
  readonly ua: string;
  readonly method: string;
  readonly status: number;
  readonly branch: string;
  readonly test: boolean;
  readonly prefetch: boolean;
  readonly hosting?: boolean;
}

/** Every request of a journal, clicks that pages told of among them. */
export const requestsOf = (journal: readonly JournalRecord[]): Request[] =>
  journal.flatMap((record): Request[] => {
    if (record.kind === 'hop') return [record];
    if (record.kind !== 'beacon' || record.event !== 'click') return [];
    return [{ ...record, method: 'GET', status: 307, branch: 'page', test: false, prefetch: false }];
  });

/**
 * What became of each request: the rules of docs/reconcile.md, record by record.
 *
 * @param mails sources whose visits come by mail
 */
export const outcomesOf = (
  hops: readonly Request[],
  mails: ReadonlySet<string> = new Set(),
): Map<Request, string> => {
  const found = new Map<Request, string>();
  for (const hop of hops)
    if (hop.test) found.set(hop, 'tests');
    else if (hop.prefetch) found.set(hop, 'prefetches');
  const visitors = new Map<string, Request[]>();
  for (const hop of hops)
    if (!found.has(hop)) visitors.set(hop.visitor, [...(visitors.get(hop.visitor) ?? []), hop]);
  for (const list of visitors.values()) {
    const machine = new Set<Request>();
    for (const [i, last] of list.entries()) {
      const run: Request[] = [];
      for (let n = i; n >= 0; n--) {
        const hop = list[n];
        if (!hop || Math.abs(last.at - hop.at) >= 10_000) break;
        run.push(hop);
      }
      const looks = (hop: Request) => hop.hosting === true && mails.has(hop.source);
      const looked = new Set(run.slice(0, 50).flatMap((hop) => (looks(hop) ? [hop.link] : [])));
      if (run.length > 20 || (looks(last) && looked.size >= 3)) for (const hop of run) machine.add(hop);
    }
    const counted = new Map<string, number>();
    for (const hop of list) {
      const before = counted.get(hop.link);
      if (hop.ua === '' || isbot(hop.ua) || hop.method === 'HEAD' || machine.has(hop)) found.set(hop, 'bots');
      else if (
        hop.status === 200
          ? ['before', 'after', 'gone'].includes(hop.branch)
          : hop.status < 300 || hop.status > 399
      )
        found.set(hop, 'not redirected');
      else if (before !== undefined && Math.abs(hop.at - before) < 30 * 60_000) found.set(hop, 'repeats');
      else {
        counted.set(hop.link, hop.at);
        found.set(hop, 'counted');
      }
    }
  }
  return found;
};
