import type { Account, Network } from '#core/catalogue';
import { pushTo } from '#core/catalogue';
import { everyoneElse, fromLog } from '#core/hop';
import { readLink, registeredTag } from '#core/link-parts';
import type { Dimension, DimensionInput, DimensionName, LinkTraits, WayOut } from '#core/traffic';
import { requestDimensions } from '#core/traffic';
import { pageBranch } from '#core/visits';
import type { Dataset } from './dataset.ts';

const waysOut = new WeakMap<readonly Network[], Map<string, WayOut>>();

/** Where a destination leads, read once for each register of networks. */
const wayOutOf = (destination: string, networks: readonly Network[]): WayOut => {
  let known = waysOut.get(networks);
  if (!known) waysOut.set(networks, (known = new Map()));
  let wayOut = known.get(destination);
  if (!wayOut) {
    const { page = '', pairs, network } = readLink(destination, networks);
    const slots = (network?.slots ?? []).map(
      ({ name }) => pairs.find((pair) => pair.name === name)?.decoded ?? '',
    );
    const tag = pairs.find(({ role }) => role === 'account')?.decoded ?? '';
    // A tracking link without a page in it leads where its network sends it: all that is known is its own address.
    const leads = page === '' ? destination : page;
    known.set(destination, (wayOut = { page: leads.replace(/[?#].*$/s, ''), tag, slots }));
  }
  return wayOut;
};

/** What stands for a branch where a visit went to the link's own address: by no rule, from an uncloaked link on a page, by an access log. */
const ownAddress: ReadonlySet<string> = new Set([everyoneElse, pageBranch, fromLog]);

/** Links with where each of their branches leads. */
const traitsOf = ({ records: { links, networks, accounts } }: Dataset): LinkTraits[] => {
  const registered = new Map<string, Account[]>();
  for (const account of accounts) pushTo(registered, account.network, account);
  return links.map((link) => ({
    ...link,
    wayOut: (branch) => {
      const destination = ownAddress.has(branch)
        ? link.destination
        : link.branches?.find(({ id }) => id === branch)?.destination;
      if (destination === undefined) return undefined;
      const wayOut = wayOutOf(destination, networks);
      if (wayOut.tag !== '' || !link.network) return wayOut;
      return { ...wayOut, tag: registeredTag(destination, registered.get(link.network) ?? []) };
    },
  }));
};

/** Makes dimensions of what is held, each once. */
export const dimensionsOf = (data: Dataset) => {
  const { journal, zone, sourceOf, passesOf } = data;
  const { promotions } = data.records;
  const { classification } = data;
  const kindsIn: DimensionInput['kindsIn'] = (segment) => classification.kindsIn(segment);
  const { columns } = journal;
  const input = { columns, links: traitsOf(data), promotions, sourceOf, passesOf, zone, kindsIn };
  const made = new Map<DimensionName, Dimension>();
  return (name: DimensionName): Dimension => {
    let known = made.get(name);
    if (!known) made.set(name, (known = requestDimensions[name](input)));
    return known;
  };
};
