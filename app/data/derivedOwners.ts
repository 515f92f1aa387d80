import type { Link, Network, Program, RecordKind } from '#core/catalogue';
import { ownership, withOwners } from '#core/link-parts';
import type { Row } from '../sync/index.ts';
import type { CatalogueChange } from './catalogue.ts';
import { screenTurn } from './screenTurn.ts';

/** What the catalogue holds before a change. */
interface Before {
  readonly rows: ReadonlyMap<string, Row>;
  readonly links: readonly Link[];
  readonly networks: readonly Network[];
  readonly programs: readonly Program[];
}

/** Links that are read in one turn of the screen; thousands may be. */
const perTurn = 400;

/** The records of a kind as they are once changes are saved. */
const afterChanges = <T extends { readonly id: string }>(
  kind: RecordKind,
  list: readonly T[],
  changes: readonly CatalogueChange[],
): readonly T[] => {
  const next = new Map(
    changes.flatMap((change) =>
      change.kind === kind ? [[change.value?.id ?? change.id, change.value] as const] : [],
    ),
  );
  if (next.size === 0) return list;
  const stays = list.filter(({ id }) => !next.has(id));
  // What is saved as a kind holds a record of it.
  return [
    ...stays,
    ...[...next.values()].flatMap((value) => (value === null ? [] : [value as unknown as T])),
  ];
};

/** True for a change of a network or program by which a link may belong to another. */
const changesOwnership = ({ kind, value, id }: CatalogueChange, { rows }: Before): boolean => {
  if (kind !== 'network' && kind !== 'program') return false;
  // Records of these two kinds.
  const text = (record: object | null | undefined) => record && ownership(record as Network | Program);
  return text(rows.get(value?.id ?? id ?? '')?.value) !== text(value);
};

/**
 * Changes with the network and program of every link they touch: these follow from its destination, so they are set anew where
 * a link is saved, and for every link that a network or program saved with it reads otherwise.
 */
export const withDerivedOwners = async (
  changes: readonly CatalogueChange[],
  before: Before,
): Promise<readonly CatalogueChange[]> => {
  const networks = afterChanges('network', before.networks, changes);
  const programs = afterChanges('program', before.programs, changes);
  const own: CatalogueChange[] = [];
  for (const change of changes) {
    const isLink = change.kind === 'link' && change.value;
    own.push(isLink ? { ...change, value: withOwners(change.value as Link, networks, programs) } : change); // of this kind
    if (own.length % perTurn === 0) await screenTurn();
  }
  if (!changes.some((change) => changesOwnership(change, before))) return own;
  const given = new Set(changes.map((change) => change.value?.id ?? change.id));
  const others: CatalogueChange[] = [];
  for (const [i, link] of before.links.entries()) {
    if (i % perTurn === perTurn - 1) await screenTurn();
    if (given.has(link.id)) continue;
    const next = withOwners(link, networks, programs);
    if (next !== link) others.push({ kind: 'link', value: next });
  }
  return [...own, ...others];
};
