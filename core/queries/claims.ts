import type { Report } from '#core/catalogue';
import { addressOf } from '#core/catalogue';
import { accountTag } from '#core/link-parts';
import type { ClaimEntry, ClaimSources, Unit } from '#core/reconcile';
import { claimLine, claimState } from '#core/reconcile';
import type { NetworkScope } from './clicks.ts';
import type { Dataset } from './dataset.ts';
import { isInScope, unitById } from './discrepancies.ts';

const isNewer = (a: Report, b: Report) => a.at - b.at || (a.id < b.id ? -1 : 1);

/** Where the network's reports have rows: the newest file that says what stands now, by the row's key. */
const placesOf = (
  reports: readonly Report[],
  network: string,
  keys: ReadonlySet<string>,
): Map<string, ClaimSources['report']> => {
  const found = new Map<string, ClaimSources['report']>();
  for (const { rows, file, at } of reports.filter((one) => one.network === network).sort(isNewer))
    for (const { key, line } of rows)
      if (keys.has(key.toLowerCase()))
        found.set(key.toLowerCase(), { file, at, ...(line !== undefined && { line }) });
  return found;
};

/** What a claim to the network is about: what it owes and was not asked yet, what it was asked, and what it answered. */
export const claim = (data: Dataset, scope: NetworkScope): ClaimEntry[] => {
  const { columns, postbacks } = data.journal;
  const { domains, links, networks, programs, reports } = data.records;
  const network = networks.find(({ id }) => id === scope.network);
  if (!network) return [];
  const domainOf = new Map(domains.map((domain) => [domain.id, domain]));
  const linkOf = new Map(links.map((link) => [link.id, link]));
  const programOf = new Map(programs.map((program) => [program.id, program]));
  const bySeq = new Map(postbacks.map((record) => [record.seq, record]));
  const chosen = data.reconciled.cases.flatMap((one) => {
    const state = isInScope(data, one, scope) ? claimState(one) : undefined;
    return state === undefined ? [] : [{ one, state, unit: unitById(data, one.unit) }];
  });
  const keyOf = (unit: Unit | undefined) => unit?.reported?.key.toLowerCase() ?? '';
  const places = placesOf(reports, network.id, new Set(chosen.map(({ unit }) => keyOf(unit))));
  return chosen.map(({ one, state, unit }): ClaimEntry => {
    const seqs =
      one.postback === undefined ? (unit?.conversion?.steps ?? []).map(({ seq }) => seq) : [one.postback];
    const report = places.get(keyOf(unit));
    const line = claimLine(one, unit, {
      network,
      program: (id) => programOf.get(id),
      postbacks: seqs.flatMap((seq) => bySeq.get(seq) ?? []),
      clickOf: (row) => ({ click: columns.click(row), at: columns.at(row) }),
      linkOf: (id) => {
        const link = linkOf.get(id);
        const domain = link && domainOf.get(link.domain);
        return {
          address: link && domain ? addressOf(domain, link) : id,
          account: link ? accountTag(link.destination, networks, programs) : '',
        };
      },
      ...(report && { report }),
    });
    const { id, kind, decision } = one;
    return {
      case: { id, kind, ...(decision && { decision }) },
      line,
      state,
      ...(decision?.answer && { answer: decision.answer }),
    };
  });
};
