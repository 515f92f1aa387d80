import type { Role } from '#core/catalogue';

/** A network nobody has, made up from a number: how it writes its links, and the truth about each part of them. */
export interface InventedNetwork {
  readonly shape: string;
  readonly samples: readonly string[];
  /** For each sample, which of its programs it is of. */
  readonly programOf: readonly number[];
  readonly programs: readonly { readonly code: string; readonly host: string }[];
  readonly account: string;
  /** What each part is for, by the part's name as `places.ts` has it. */
  readonly truth: ReadonlyMap<string, Role>;
  /** The link the network's own tool gives for a page of a program, with the sub-ID slots as they are given. */
  tool(page: string, program: number, slots: readonly string[]): string;
}

/** Mulberry32: the same numbers from the same seed. */
const numbers = (seed: number) => {
  let state = seed >>> 0;
  return (): number => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
};

/** Names as networks give them, by what they are for (common practice). */
const tradeNames: Readonly<Record<'account' | 'program' | 'creative' | 'slot', readonly string[]>> = {
  account: ['aff', 'affid', 'affiliate', 'pub', 'publisher', 'partner', 'aff_id'],
  program: ['offer', 'oid', 'camp', 'campaign', 'mid', 'merchant', 'advertiser', 'program', 'offer_id'],
  creative: ['cr', 'creative', 'banner', 'ad'],
  slot: ['sid', 'tid', 'subid', 'sub1', 'sub2', 's1', 's2', 'aff_sub', 'clickref', 'u1', 'sub_id'],
};

const percent = (page: string) => encodeURIComponent(page);
const bytes64 = (page: string) => Buffer.from(page).toString('base64');
const codings: readonly ((page: string) => string)[] = [
  percent,
  (page) => new URLSearchParams([['', page]]).toString().slice(1),
  (page) => percent(percent(page)),
  (page) => percent(page).replace(/%[0-9A-F]{2}/g, (byte) => byte.toLowerCase()),
  bytes64,
  (page) => percent(bytes64(page)),
  (page) => Buffer.from(page).toString('base64url'),
];

const shapes = ['query', 'path', 'pieces', 'words', 'host', 'fragment', 'joined', 'rest', 'base64'] as const;

/** Makes a network up. The same seed gives the same. */
export const inventNetwork = (seed: number): InventedNetwork => {
  const random = numbers(seed * 7919 + 13);
  const pick = <T>(list: readonly T[]): T => {
    const found = list[Math.floor(random() * list.length)];
    if (found === undefined) throw new Error('A list to pick from has something in it.');
    return found;
  };
  const chance = (share: number) => random() < share;
  const letters = (length: number) => Array.from({ length }, () => pick([...'bcdfghjklmnpqrtvwxz'])).join('');
  const digits = (length: number) =>
    String(1 + Math.floor(random() * 9)) +
    Array.from({ length: length - 1 }, () => String(Math.floor(random() * 10))).join('');

  const shape = pick(shapes);
  const usual = chance(0.5);
  const used = new Set<string>();
  const nameFor = (role: keyof typeof tradeNames): string => {
    for (;;) {
      // Now and then a network uses a name of the trade for something else.
      const kind = chance(0.005) ? pick(['account', 'program', 'creative', 'slot'] as const) : role;
      const name = usual || kind !== role ? pick(tradeNames[kind]) : letters(2 + Math.floor(random() * 3));
      if (used.has(name)) continue;
      used.add(name);
      return name;
    }
  };
  const freshName = (length: number): string => {
    for (;;) {
      const name = letters(length);
      if (used.has(name)) continue;
      used.add(name);
      return name;
    }
  };
  const account = pick([digits(4), digits(6), `nl-${digits(4)}`, 'nightledge', `n${digits(3)}x`]);
  const codeForm = pick(['digits', 'letters'] as const);
  const code = () => (codeForm === 'digits' ? digits(3 + Math.floor(random() * 3)) : letters(6));
  const programs = [0, 1, 2].map((n) => ({ code: code(), host: `shop-${letters(4)}${n}.example` }));
  const creativeKind = pick(['none', 'none', 'by program', 'banners', 'same'] as const);
  const creatives = programs.map(() => digits(4));
  const oneCreative = digits(3);
  const slotNames = Array.from({ length: 1 + Math.floor(random() * 2) }, () => nameFor('slot'));
  const slotContent = pick(['empty', 'empty', 'labels'] as const);
  const hostWord = pick(['go', 't', 'track', 'click', 'www']);
  const domain = `${letters(7)}.example`;
  const constant = chance(0.4) ? [[freshName(2), pick(['deep', 'web', '1', 'v2'])] as const] : [];
  const emptyEnd = chance(0.3) ? [[freshName(3), ''] as const] : [];
  const coding = shape === 'base64' ? pick(codings.slice(4)) : pick(codings.slice(0, 4));
  const separator = pick(['-', '_', '|']);
  const accountName = nameFor('account');
  const programName = nameFor('program');
  const creativeName = nameFor('creative');
  const pageName = pick(['u', 'url', 'page', 'to', 'dl', freshName(3)]);
  const joinedName = freshName(3);
  const truth = new Map<string, Role>();

  /** A link of the network; what its parts are for is written down beside it. */
  const write = (values: {
    page: string | undefined;
    code: string;
    creative: string;
    slots: readonly string[];
  }): string => {
    const query: [string, string][] = [];
    const put = (role: Role, name: string, value: string) => {
      truth.set(name, role);
      query.push([name, value]);
    };
    const creative = creativeKind !== 'none';
    let host = `${hostWord}.${domain}`;
    let path = '/x';
    let rest = '';
    switch (shape) {
      case 'path':
        path = `/c/${account}/${values.code}${creative ? `/${values.creative}` : ''}`;
        truth.set('/2', 'account').set('/3', 'program');
        if (creative) truth.set('/4', 'creative');
        break;
      case 'words':
        path = `/aff/${account}/${values.code}`;
        truth.set('/2', 'account').set('/3', 'program');
        break;
      case 'pieces':
        // The account stands whole in one piece only where it has no sign that parts pieces.
        path = `/click-${account.replace('-', '')}-${values.code}`;
        truth.set('/1.2', 'account').set('/1.3', 'program');
        break;
      case 'host':
        host = `${account}.${values.code}.${domain}`;
        truth.set('//1', 'account').set('//2', 'program');
        break;
      case 'joined':
        put('account', joinedName, `${account.replace('-', '')}${separator}${values.code}`);
        truth.delete(joinedName);
        truth.set(`${joinedName}#1`, 'account').set(`${joinedName}#2`, 'program');
        break;
      case 'rest':
        path = `/c/${account}/${values.code}/`;
        truth.set('/2', 'account').set('/3', 'program').set('/4+', 'page');
        rest = values.page ?? '';
        break;
      default:
        put('account', accountName, account);
        put('program', programName, values.code);
    }
    if (creative && !['path', 'rest'].includes(shape)) put('creative', creativeName, values.creative);
    for (const [i, name] of slotNames.entries())
      if (shape !== 'rest') put('slot', name, values.slots[i] ?? '');
    for (const [name, value] of constant) if (shape !== 'rest') put('other', name, value);
    if (shape !== 'rest' && values.page !== undefined) put('page', pageName, coding(values.page));
    for (const [name, value] of emptyEnd) if (shape !== 'rest') put('other', name, value);
    const text = query.map(([name, value]) => `${name}=${value}`).join('&');
    if (shape === 'rest') return `https://${host}${path}${rest}`;
    if (shape !== 'fragment') return `https://${host}${path}?${text}`;
    for (const [name] of query) {
      truth.set(`#${name}`, truth.get(name) ?? 'other');
      truth.delete(name);
    }
    return `https://${host}${path}#${text}`;
  };
  const creativeOf = (program: number): string =>
    creativeKind === 'same' ? oneCreative : (creatives[program] ?? '');
  const page = (program: number): string => {
    const base = `https://${programs[program]?.host ?? ''}/${letters(5)}-${letters(4)}`;
    return pick([
      base,
      `${base}?id=${digits(3)}`,
      `${base}?q=${letters(3)}+${letters(4)}&s=${digits(1)}`,
      `${base}/`,
    ]);
  };
  const programOf = pick([
    [0, 0, 1],
    [0, 1, 0],
    [1, 0, 0],
    [0, 0, 1],
    [0, 0, 0],
    [0, 1, 2],
  ]);
  const samples = programOf.map((program, i) => {
    // Of two links of one program the second is a banner's: it leads to no page, and its creative is one for banners.
    const isBanner =
      creativeKind === 'banners' && shape !== 'rest' && programOf.slice(0, i).includes(program) && i === 2;
    return write({
      page: isBanner ? undefined : page(program),
      code: programs[program]?.code ?? '',
      creative: isBanner ? digits(4) : creativeOf(program),
      slots: slotNames.map(() => (slotContent === 'empty' ? '' : pick(['blog', 'autumn', 'mail', 'blog2']))),
    });
  });
  return {
    shape,
    samples,
    programOf,
    programs,
    account: ['pieces', 'joined'].includes(shape) ? account.replace('-', '') : account,
    truth,
    tool: (to, program, slots) =>
      write({ page: to, code: programs[program]?.code ?? '', creative: creativeOf(program), slots }),
  };
};
