import { dequal } from 'dequal';
import { diffArrays } from 'diff';
import type { Branch, Conditions, Domain, HopChoices, Hours, Link, Marks } from '#core/catalogue';
import { fieldName } from '#core/catalogue';
import { describeConditions } from './conditions.ts';
import { choiceWords } from './words.ts';

/** A piece of a changed address: it stayed, went or came. */
export interface DiffPiece {
  readonly text: string;
  readonly kind: 'same' | 'gone' | 'new';
}

/** One thing that a change did. */
export interface DescribedChange {
  /** A sentence without the address where there is a `diff`: `redirect type from 307 to 302`. */
  readonly words: string;
  /** What changed inside an address, piece by piece. */
  readonly diff?: readonly DiffPiece[];
}

/** What the words of a change need besides the link. */
export interface ChangeSetting {
  /** The zone of hours that name none: its domain's. */
  readonly zone?: string | undefined;
  /** What the link's domain does: named where a choice goes from or to it. Left out where it may have been another then. */
  readonly defaults?: Pick<Domain, 'hop' | 'marks'> | undefined;
  /** A local time as a person reads it, with its zone. */
  readonly time?: ((local: string, zone: string) => string) | undefined;
}

type Fields = Readonly<Record<string, unknown>>;

/** What changed inside an address: its pieces between the signs that part them. */
export const diffOf = (before: string, after: string): DiffPiece[] => {
  const pieces = (text: string) => text.split(/([/?&=#]|%[0-9A-Fa-f]{2})/).filter((piece) => piece !== '');
  return diffArrays(pieces(before), pieces(after)).map(({ value, added, removed }) => ({
    text: value.join(''),
    kind: added ? 'new' : removed ? 'gone' : 'same',
  }));
};

const byDomain = 'what its domain does';
const longest = 70;
const short = (text: string): string => (text.length > longest ? `${text.slice(0, longest - 1)}…` : text);

/** A value as words; empty where there is none. */
const inWords = (value: unknown): string => {
  if (value === undefined || value === null) return '';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (Array.isArray(value)) return value.length === 0 ? 'none' : short(value.join(', '));
  if (typeof value === 'object')
    return short(
      Object.entries(value)
        .map(([name, part]) => `${name} ${inWords(part)}`)
        .join(', '),
    );
  return short(String(value));
};

const fromTo = (name: string, from: unknown, to: unknown, nothing = ''): DescribedChange => {
  const [a, b] = [inWords(from) || nothing, inWords(to) || nothing];
  if (a === '' && b === '') return { words: `${name} changed` };
  if (a === '') return { words: `${name} set to ${b}` };
  return { words: b === '' ? `${name} ${a} taken away` : `${name} from ${a} to ${b}` };
};

/** What differs between two sets of choices, name by name; what is not a link's own choice is its domain's. */
const choiceChanges = <T extends object>(
  before: Partial<T>,
  after: Partial<T>,
  words: Readonly<Record<string, string>>,
  defaults: Partial<T> | undefined,
): DescribedChange[] =>
  Object.keys(words).flatMap((name) => {
    const key = name as keyof T; // a name of one of them
    if (dequal(before[key], after[key])) return [];
    const byDefault = defaults && (inWords(defaults[key]) || 'none');
    const nothing = byDefault === undefined ? byDomain : `${byDefault} (as its domain)`;
    return [fromTo(words[name] ?? name, before[key], after[key], nothing)];
  });

const markWords: Readonly<Record<keyof Marks, string>> = {
  rel: 'rel',
  newTab: 'new tab',
  title: 'hover title',
};

/** Hours by the clock they were entered in: one in another zone is another time. */
const hourChanges = (before: Hours, after: Hours, setting: ChangeSetting): DescribedChange[] => {
  const write = setting.time ?? ((local, zone) => `${local.replace('T', ' ')} (${zone})`);
  const at = (hours: Hours, end: 'from' | 'until'): string | undefined => {
    const local = hours[end];
    return local === undefined
      ? undefined
      : write(local, hours.zone ?? setting.zone ?? 'the zone of its domain');
  };
  const changes = [
    ['opens', at(before, 'from'), at(after, 'from')],
    ['closes', at(before, 'until'), at(after, 'until')],
    ['what it answers before', before.before, after.before],
    ['what it answers after', before.after, after.after],
  ] as const;
  const told = changes.flatMap(([name, from, to]) => (dequal(from, to) ? [] : [fromTo(name, from, to)]));
  if (told.length > 0) return told;
  if (before.zone !== after.zone) return [fromTo('zone of its hours', before.zone, after.zone)];
  // An empty set of hours is the answer of somebody who was asked when it ends.
  return [{ words: 'said to have no end' }];
};

const address = (words: string, before: string, after: string): DescribedChange[] =>
  before === after ? [] : [{ words, diff: diffOf(before, after) }];

const nameOf = (branch: Branch): string => branch.name || describeConditions(branch.when) || 'for everyone';
const whenOf = (when: Conditions): string => describeConditions(when) || 'everyone';

const branchChanges = (before: readonly Branch[], after: readonly Branch[]): DescribedChange[] => {
  const changes = after.flatMap((branch): DescribedChange[] => {
    const old = before.find(({ id }) => id === branch.id);
    const name = `branch ${nameOf(branch)}`;
    if (!old) return [{ words: `${name} added, to ${short(branch.destination)}` }];
    return [
      ...(old.name === branch.name ? [] : [fromTo(`name of ${name}`, old.name, branch.name)]),
      ...(dequal(old.when, branch.when)
        ? []
        : [{ words: `${name}: for ${whenOf(branch.when)} instead of ${whenOf(old.when)}` }]),
      ...(old.weight === branch.weight ? [] : [fromTo(`weight of ${name}`, old.weight, branch.weight)]),
      ...address(`destination of ${name}`, old.destination, branch.destination),
    ];
  });
  const gone = before.filter(({ id }) => !after.some((branch) => branch.id === id));
  const stay = (list: readonly Branch[], other: readonly Branch[]) =>
    list.filter(({ id }) => other.some((branch) => branch.id === id)).map(({ id }) => id);
  return [
    ...changes,
    ...gone.map((branch) => ({ words: `branch ${nameOf(branch)} taken away` })),
    ...(dequal(stay(before, after), stay(after, before))
      ? []
      : [{ words: 'branches tried in another order' }]),
  ];
};

const archivedWords = (archived: Link['archived']): string =>
  archived === undefined
    ? 'brought back'
    : archived.to === undefined
      ? 'archived'
      : 'archived, answers as another link';

const movingWords = (before: Link['movesWeights'], after: Link['movesWeights']): DescribedChange => ({
  words:
    after === undefined
      ? 'weights move no more by themselves'
      : `weights move by themselves, each branch keeps at least ${after.least} %${before ? ` instead of ${before.least} %` : ''}`,
});

/** Coupon codes as a text: `FERN10, OAK5 at letter`. */
const couponWords = (coupons: Link['coupons']): string =>
  coupons ? `${coupons.codes.join(', ')}${coupons.source === '' ? '' : ` at ${coupons.source}`}` : '';

/** What a change of a link did, one thing after the other; what changed inside an address is given piece by piece. */
export const describeChange = (
  before: object | null,
  after: object | null,
  setting: ChangeSetting = {},
): DescribedChange[] => {
  if (before === null) return [{ words: 'made' }];
  if (after === null) return [{ words: 'removed' }];
  const [from, to]: [Fields, Fields] = [{ ...before }, { ...after }];
  const names = [...new Set([...Object.keys(from), ...Object.keys(to)])];
  return names.flatMap((name): DescribedChange[] => {
    const [a, b] = [from[name], to[name]];
    if (dequal(a, b)) return [];
    // A version of a link passed its schema: each field is what its name says.
    switch (name) {
      case 'destination':
        return address('destination', a as string, b as string);
      case 'hop':
        return choiceChanges<HopChoices>(
          (a ?? {}) as Partial<HopChoices>,
          (b ?? {}) as Partial<HopChoices>,
          choiceWords,
          setting.defaults?.hop,
        );
      case 'marks':
        return choiceChanges<Marks>(
          (a ?? {}) as Partial<Marks>,
          (b ?? {}) as Partial<Marks>,
          markWords,
          setting.defaults?.marks,
        );
      case 'hours':
        return hourChanges((a ?? {}) as Hours, (b ?? {}) as Hours, setting);
      case 'branches':
        return branchChanges((a ?? []) as Branch[], (b ?? []) as Branch[]);
      case 'coupons':
        return [
          fromTo(fieldName(name), couponWords(a as Link['coupons']), couponWords(b as Link['coupons'])),
        ];
      case 'movesWeights':
        return [movingWords(a as Link['movesWeights'], b as Link['movesWeights'])];
      case 'archived':
        return [{ words: archivedWords(b as Link['archived']) }];
      default:
        return [fromTo(fieldName(name), a, b)];
    }
  });
};
