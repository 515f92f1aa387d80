import type { Link } from '#core/catalogue';
import { pathsOf } from '#core/catalogue';
import type { PastedSnippet } from './pasted.ts';
import type { PastedAddress } from './pastedAddresses.ts';
import { addressesIn, seen, whyNoAddress } from './pastedAddresses.ts';
import type { PastedUnit } from './pastedText.ts';
import type { LinkParts } from './read.ts';
import { fillSlots, readLink } from './read.ts';
import type { PageChoice, ReadAddress, Register } from './readAddress.ts';
import { pageChoices, readAddress } from './readAddress.ts';
import { hostOf, splitLink } from './splitLink.ts';

/** What was found in a unit of a paste. A unit in which nothing is found gives one of kind `not read`. */
export type PasteEntry = {
  readonly unit: PastedUnit;
  /** The address as it stands there; empty where none does. */
  readonly address: string;
  /** Words that stand with it: the cell beside it, the linked text. */
  readonly title: string;
  /** What was done to read it, as a sentence; empty for nothing. */
  readonly note: string;
} & (
  | {
      readonly kind: 'tracking' | 'address';
      readonly linkParts: LinkParts;
      readonly snippet?: PastedSnippet;
    }
  | { readonly kind: 'page'; readonly choices: readonly PageChoice[] }
  /** A short link of ours. */
  | { readonly kind: 'short'; readonly link: Link }
  /** The destination of a link of ours, or what it becomes. */
  | { readonly kind: 'exists'; readonly link: Link; readonly linkParts: LinkParts }
  /** It stands further up in the same paste. */
  | { readonly kind: 'twice'; readonly line: number }
  /** Nothing can be made of it; `reason` says why, and what to do. */
  | { readonly kind: 'not read'; readonly reason: string }
);

/** Reads the units of a paste against the register, one after the other; each gives at least one entry. */
export const makePasteReader = (register: Register): ((unit: PastedUnit) => PasteEntry[]) => {
  const byPath = new Map(
    register.domains.flatMap((domain) =>
      register.links
        .filter((link) => link.domain === domain.id)
        .flatMap((link) => pathsOf(link, domain).map((path) => [`${domain.host}/${path}`, link] as const)),
    ),
  );
  const hosts = new Set(register.domains.map((domain) => domain.host));
  const byDestination = new Map(register.links.map((link) => [link.destination, link]));
  /** By address: the line where it stood first. */
  const lineOf = new Map<string, number>();

  const shortLink = (address: string): Link | undefined => {
    const path = splitLink(address)
      .path.slice(1)
      .replace(/(?:~|%7E).*$/i, '')
      .toLowerCase();
    return byPath.get(`${hostOf(address)}/${path}`);
  };
  const entryOf = (unit: PastedUnit, found: PastedAddress): PasteEntry => {
    const { address, title, note, snippet } = found;
    const base = { unit, address, title, note };
    if (hosts.has(hostOf(address))) {
      const link = shortLink(address);
      return link
        ? { ...base, kind: 'short', link }
        : {
            ...base,
            kind: 'not read',
            reason: `${hostOf(address)} is a domain of yours, but no link of yours is at this address.`,
          };
    }
    const before = lineOf.get(address);
    if (before !== undefined) return { ...base, kind: 'twice', line: before };
    lineOf.set(address, unit.from);
    const recognised: ReadAddress = readAddress(address, register, snippet);
    switch (recognised.kind) {
      case 'tracking':
      case 'address': {
        const link = byDestination.get(address) ?? byDestination.get(fillSlots(recognised.linkParts));
        return link
          ? { ...base, kind: 'exists', link, linkParts: recognised.linkParts }
          : { ...base, ...recognised };
      }
      case 'page': {
        const choices = pageChoices(address, register);
        const made = choices.flatMap((choice) => (choice.made.ok ? [choice.made.link] : []));
        const link = made.map((each) => byDestination.get(each)).find((each) => each !== undefined);
        if (link) {
          const linkParts = readLink(link.destination, register.networks, register.programs);
          return { ...base, kind: 'exists', link, linkParts };
        }
        const [first] = choices;
        return first && !first.made.ok && made.length === 0
          ? { ...base, kind: 'not read', reason: first.made.message }
          : { ...base, kind: 'page', choices: choices.filter((choice) => choice.made.ok) };
      }
      case 'not joined':
        return {
          ...base,
          kind: 'not read',
          reason: `A page of ${recognised.programs[0]?.name ?? 'a shop'}, whose program you have not joined: no link to it would earn. Apply there first.`,
        };
    }
  };

  return (unit) => {
    const found = addressesIn(unit);
    if (found.length > 0) return found.map((each) => entryOf(unit, each));
    const reason = whyNoAddress(seen(unit.text));
    return [{ unit, address: '', title: '', note: '', kind: 'not read', reason }];
  };
};
