import { element } from '#core/catalogue';
import type { Role } from '#core/catalogue';
import { shopOf } from './deepLink.ts';
import { pageInside } from './pageCoding.ts';
import type { LinkPart } from './places.ts';
import { isPlace, partsOf, piecesOf } from './places.ts';
import { decodeQueryText } from './queryText.ts';
import type { RoleGuess } from './roles.ts';
import { guessRole } from './roles.ts';
import { hostOf } from './splitLink.ts';

/** What a part turned out to be when several links of one network were laid side by side. */
export interface Compared extends RoleGuess {
  readonly name: string;
  /** Its values, each once, decoded; of a page its address. */
  readonly values: readonly string[];
}

/** A part over all links: its raw value in each, undefined where a link has none. */
interface Column {
  readonly name: string;
  readonly raw: readonly (string | undefined)[];
  /** It may hold several things: some of its pieces vary and others do not, but nothing says that they are pieces. */
  readonly mayHoldSeveral?: true;
}

const isConstant = (raw: readonly (string | undefined)[]): boolean => new Set(raw).size === 1;

/**
 * The columns a part gives: its pieces where they are parted alike in every link, one of them is the same in all, another
 * varies, and one has a digit; else the part as a whole.
 */
const columnsOf = (name: string, found: readonly (LinkPart | undefined)[]): Column[] => {
  const whole: Column[] = [{ name, raw: found.map((part) => part?.value) }];
  const present = found.filter((part) => part !== undefined);
  if (present.length < found.length || name.startsWith('//') || name.endsWith('+')) return whole;
  if (present.some(({ value }) => pageInside(value) !== undefined || value.includes('{'))) return whole;
  const pieces = present.map(piecesOf);
  const [first = []] = pieces;
  if (first.length < 2 || pieces.some((list) => list.length !== first.length)) return whole;
  const columns = first.map((piece, i): Column => ({
    name: piece.name,
    raw: pieces.map((list) => list[i]?.value),
  }));
  const isMixed = columns.some(({ raw }) => isConstant(raw)) && columns.some(({ raw }) => !isConstant(raw));
  const isWhole = columns.some(({ raw }) => raw.includes(''));
  if (!isMixed || isWhole) return whole;
  const hasNumber = columns.some(({ raw }) => raw.every((value) => /\d/.test(value ?? '')));
  return hasNumber ? columns : [{ name, raw: found.map((part) => part?.value), mayHoldSeveral: true }];
};

/** The parts of the links side by side. Places count only where all links have as many of them. */
const layOut = (links: readonly string[]): Column[] => {
  const rows = links.map(partsOf);
  const names = [...new Set(rows.flatMap((parts) => parts.map(({ name }) => name)))];
  const countOf = (parts: readonly LinkPart[], form: RegExp) =>
    parts.filter(({ name }) => form.test(name)).length;
  const isLikeIn = (form: RegExp) => new Set(rows.map((parts) => countOf(parts, form))).size === 1;
  const owner = new Set(links.map((link) => shopOf(hostOf(link)))).size === 1;
  /** Labels of the part of the host that is registered are no part of a link. */
  const ownLabels =
    rows[0] && links[0] ? countOf(rows[0], /^\/\//) - shopOf(hostOf(links[0])).split('.').length : 0;
  const alike = { host: owner && isLikeIn(/^\/\//), path: isLikeIn(/^\/\d/), fragment: isLikeIn(/^#\//) };
  return names.flatMap((name) => {
    if (name.startsWith('//') && (!alike.host || Number(name.slice(2)) > ownLabels)) return [];
    if (/^\/\d/.test(name) && !alike.path) return [];
    if (name.startsWith('#/') && !alike.fragment) return [];
    const found = rows.map((parts) => parts.find((part) => part.name === name));
    // A path that ends with a slash has an empty last part.
    if (name.startsWith('/') && found.every((part) => part === undefined || part.value === '')) return [];
    return columnsOf(name, found);
  });
};

/** Values that say how a link works and belong to nobody (common practice). */
const isSwitch = (value: string): boolean =>
  /^(?:\d|v\d|true|false|yes|no|on|off|web|deep|deeplink|link|text|image|html?|direct)$/i.test(value);
/** A tag has one sign between its pieces at most, and letters before it: `nl-4471`. Anything longer may be several things. */
const isOneThing = (value: string): boolean => /^[a-z0-9]+$|^[a-z]{1,12}-\d{1,8}$/i.test(value);
const open = (reason: string): RoleGuess => ({ role: 'other', open: true, reason });

/**
 * Lays links of one network side by side: what stays the same is the account, what changes just when the shop changes is the
 * program, if nothing else does. What several readings fit is left open: a person says which it is.
 *
 * @param links two or more links with the same registrable domain; others tell little
 */
export const compareSamples = (links: readonly string[]): Compared[] => {
  const columns = layOut(links);
  const shops = links.map((_, i) => {
    const page = columns.map(({ raw }) => pageInside(raw[i] ?? '')).find((found) => found !== undefined);
    return page === undefined ? undefined : shopOf(hostOf(page));
  });
  const several = links.length > 1;
  /** Two links of one shop and one of another: only then is it seen what goes with the shop. */
  const tellShops =
    new Set(shops).size > 1 && new Set(shops).size < shops.length && !shops.includes(undefined);
  const followsShop = ({ raw }: Column): boolean =>
    raw.every((value, i) => raw.every((other, n) => (shops[i] === shops[n]) === (value === other)));

  const columnGuesses = columns.map((column): RoleGuess | 'constant' | 'varies' => {
    const present = column.raw.filter((value) => value !== undefined);
    const guesses = present.map((value) => guessRole({ name: column.name, value }));
    const page = guesses.find(({ role }) => role === 'page');
    if (page) return page;
    const [guess] = guesses;
    if (guess && guess.role !== 'other' && guesses.every(({ role }) => role === guess.role)) {
      const varies = several && !isConstant(column.raw);
      if (guess.role !== 'account' || !varies) return guess;
      return open('Its name is an account’s, but it varies from link to link: say what it is.');
    }
    const slot = guesses.find(({ role }) => role === 'slot');
    if (slot && guesses.every(({ role, open: unsure }) => role === 'slot' || unsure)) return slot;
    if (guess && !guess.open && guess.role === 'other') return guess;
    if (present.every((value) => value === '')) return open('It is empty in every link: say what it is.');
    const value = element(present[0]);
    if (isConstant(column.raw) && (isHostWord(column) || isSwitch(value)))
      return { role: 'other', reason: 'It says how the link works, and is nobody’s name.' };
    if (!several) return open('Nothing tells what it is for; it is sent as it stands.');
    return isConstant(column.raw) ? 'constant' : 'varies';
  });

  const at = (what: RoleGuess | 'constant' | 'varies') => (_: Column, i: number) => columnGuesses[i] === what;
  const hasRole = (role: Role) =>
    columnGuesses.some((guess) => typeof guess === 'object' && guess.role === role);
  // Where one thing alone stays the same, and it is nobody else's word, it is the account.
  const constants = columns.filter(at('constant'));
  const [only] = constants;
  const account =
    !hasRole('account') && constants.length === 1 && only && isOneThing(only.raw[0] ?? '') ? only : undefined;
  const following = columns.filter(at('varies')).filter(followsShop);
  const isMixed = following.some(({ mayHoldSeveral }) => mayHoldSeveral);
  const program =
    !hasRole('program') && tellShops && following.length === 1 && !isMixed ? following[0] : undefined;

  const compared = columns.map((column, i): Compared => {
    const values = [
      ...new Set(column.raw.flatMap((value) => (value === undefined ? [] : [decodeQueryText(value)]))),
    ];
    const guess = columnGuesses[i] ?? 'varies';
    const found = ((): RoleGuess => {
      if (typeof guess === 'object') return guess;
      if (column === account)
        return { role: 'account', reason: `It is ${element(values[0])} in all ${links.length} links.` };
      if (column === program) return { role: 'program', reason: 'It changes just when the shop changes.' };
      if (guess === 'varies')
        return open('It varies from link to link: say whether it is program, creative or sub-ID.');
      return open('It is the same in every link: say whether it is the account.');
    })();
    const shown = found.role === 'page' ? values.map((value) => pageInside(value) ?? value) : values;
    return { name: column.name, ...found, values: shown };
  });
  // Words of host and path that every link has are the network's own, and nothing to ask about.
  return compared.filter(({ name, role, open: unsure }) => !isPlace(name) || role !== 'other' || unsure);
};

/** Words with which hosts and paths of tracking links begin (common practice): nobody's name. */
const isHostWord = (column: Column | undefined): boolean =>
  column !== undefined &&
  isPlace(column.name) &&
  /^(?:www\d?|go|t|r|c|x|l|to|get|out|ref|trk?|track(?:ing)?|click|clk|link|links|redirect|redir|aff|deep|jump|visit)$/i.test(
    column.raw[0] ?? '',
  );
