import { addTo } from '#core/catalogue';
import { foldClicks } from '#core/conversions';
import type { ClickBridge, Scope } from '#core/reconcile';
import { bridgeClicks, withWrittenOff } from '#core/reconcile';
import type { Dataset } from './dataset.ts';

/** What is looked at with one network. */
export type NetworkScope = Scope & { readonly network: string };

/** Bridges before anything was written off, by what was looked at, and what they rest on. */
interface Counted {
  readonly basis: readonly unknown[];
  readonly bridges: Map<string, ClickBridge>;
}
/** A decision changes none of them, and each is a pass over every request. */
const mostBridges = 12;
const countedOf = new WeakMap<Dataset, Counted>();

/** Everything that clicks are counted by; the same things as long as nothing of it changed. */
const basisOf = ({ journal, classification, rolledUp, records, zone }: Dataset): readonly unknown[] => [
  ...[journal.columns, journal.columns.rows, journal.traces.length, journal.lost.length],
  ...[classification, rolledUp, zone],
  ...[records.networks, records.programs, records.links, records.reports, records.sources],
];

/** What was counted for a scope, or counts it. */
const countOnce = (data: Dataset, scope: NetworkScope, count: () => ClickBridge): ClickBridge => {
  const basis = basisOf(data);
  let counted = countedOf.get(data);
  if (!counted || basis.some((part, i) => part !== counted?.basis[i]))
    countedOf.set(data, (counted = { basis, bridges: new Map() }));
  const { network, program, link, source, month } = scope;
  const name = JSON.stringify([network, program, link, source, month]);
  const found = counted.bridges.get(name) ?? count();
  counted.bridges.delete(name);
  counted.bridges.set(name, found);
  // Each may hold the numbers of a million requests: those not looked at lately go.
  for (const oldest of [...counted.bridges.keys()].slice(0, -mostBridges)) counted.bridges.delete(oldest);
  return found;
};

/** Clicks of one network, or of one program, link or source with it: ours, theirs, and what lies between. */
export const clickBridge = (data: Dataset, scope: NetworkScope): ClickBridge => {
  const { networks, links, reports, programs } = data.records;
  const { network, program, month } = scope;
  const byId = new Map(links.map((link) => [link.id, link]));
  // Their reports name a program by its name or code, a link or a source by the label in a sub-ID.
  const names = new Set(
    [
      ...programs.filter((one) => one.id === program).flatMap((one) => [one.name, one.code]),
      ...(scope.link === undefined ? [] : [scope.link, byId.get(scope.link)?.slug ?? '']),
      ...(scope.source === undefined
        ? []
        : data.journal.columns.dictionaries.source.texts.filter(
            (name) => data.sourceOf(name) === scope.source,
          )),
      scope.source ?? '',
    ]
      .filter((name) => name !== '')
      .map((name) => name.toLowerCase()),
  );
  const rows = [...foldClicks(reports).values()].filter((row) => row.network === network);
  const wholeDays = new Set(rows.flatMap((row) => (row.label === '' ? [row.day] : [])));
  const narrowed = program !== undefined || scope.link !== undefined || scope.source !== undefined;
  const writtenOff = new Map<string, number>();
  for (const { clicks, decision, network: whose } of data.reconciled.cases)
    if (clicks && whose === network && decision?.kind === 'write off')
      if (
        narrowed ? names.has(clicks.label.toLowerCase()) : clicks.label === '' || !wholeDays.has(clicks.day)
      )
        addTo(writtenOff, clicks.day, clicks.theirs - clicks.ours);
  const count = () =>
    bridgeClicks({
      columns: data.journal.columns,
      classification: data.classification,
      rolledUp: data.rolledUp.counts,
      traces: data.journal.traces,
      lost: data.journal.lost,
      // A day that is reported as a whole and by label too counts as a whole.
      reported: narrowed ? rows : rows.filter((row) => row.label === '' || !wholeDays.has(row.day)),
      isLink: (id) =>
        byId.get(id)?.network === network &&
        (program === undefined || byId.get(id)?.program === program) &&
        (scope.link === undefined || scope.link === id),
      isSource: (source) => scope.source === undefined || scope.source === data.sourceOf(source),
      isLabel: (label) => !narrowed || names.has(label.toLowerCase()),
      zone: data.zone,
      theirZone: networks.find((one) => one.id === network)?.zone ?? 'UTC',
      month,
    });
  return withWrittenOff(countOnce(data, scope, count), writtenOff, month);
};
