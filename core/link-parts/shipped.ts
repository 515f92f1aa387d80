import type { Network, ProgramRules } from '#core/catalogue';

/** A network the application knows before anybody teaches it; IDs and keys are made when it is joined. */
export type KnownNetwork = Omit<Network, 'id' | 'postback'> & {
  postback: Omit<Network['postback'], 'key' | 'pixelKey'>;
  /** Programs known with it, by the value of the program parameter. */
  programs: readonly {
    code: string;
    name: string;
    hosts: readonly string[];
    rules?: ProgramRules;
  }[];
};

const both = (name: string) => [`${name}.localhost`, `${name}.example`];

/** The simulated networks that ship with Fernhop. None of them exists. */
export const knownNetworks: readonly KnownNetwork[] = [
  {
    name: 'Harrowmead',
    currency: 'EUR',
    zone: 'Europe/Berlin',
    linkFormat: {
      version: 1,
      hosts: both('t.harrowmead'),
      path: '/r',
      parameters: [
        { name: 'by', role: 'account' },
        { name: 'deal', role: 'program' },
        { name: 'ref1', role: 'slot' },
        { name: 'ref2', role: 'slot' },
        { name: 'page', role: 'page' },
      ],
    },
    slots: [
      { name: 'ref1', length: 20, fill: '{click}', allowed: 'any', merchant: false },
      { name: 'ref2', length: 20, fill: '{source}', allowed: 'any', merchant: false },
    ],
    postback: {
      placeholders: {
        click: '[[ref1]]',
        event: '[[kind]]',
        status: '[[state]]',
        amount: '[[commission]]',
        currency: '[[currency]]',
        txn: '[[order]]',
        at: '[[when]]',
      },
      fields: {},
      statuses: { open: 'pending', confirmed: 'approved', cancelled: 'reversed', settled: 'paid' },
      amounts: 'replace',
    },
    programs: [
      { code: '2093', name: 'Polehouse Optics', hosts: both('polehouse') },
      { code: '2111', name: 'Cindermitt', hosts: both('cindermitt') },
    ],
  },
  {
    name: 'Kelvane',
    currency: 'USD',
    zone: 'America/Los_Angeles',
    linkFormat: {
      version: 1,
      hosts: both('go.kelvane'),
      path: '/c/*/*',
      parameters: [
        { name: '/2', role: 'account' },
        { name: '/3', role: 'program' },
        ...(['k1', 'k2', 'k3', 'k4', 'k5'] as const).map((name) => ({ name, role: 'slot' as const })),
        { name: 'land', role: 'page' },
      ],
    },
    slots: [
      { name: 'k1', length: 64, fill: '{click}', allowed: 'any', merchant: false },
      { name: 'k2', length: 64, fill: '{source}', allowed: 'any', merchant: false },
      { name: 'k3', length: 64, fill: '', allowed: 'any', merchant: false },
      { name: 'k4', length: 64, fill: '', allowed: 'any', merchant: false },
      { name: 'k5', length: 64, fill: '', allowed: 'any', merchant: false },
    ],
    postback: {
      placeholders: {
        click: '{k1}',
        event: '{goal}',
        status: '{result}',
        amount: '{payout}',
        txn: '{lead}',
        at: '{time}',
      },
      fields: {},
      statuses: { accepted: 'approved', rejected: 'reversed', hold: 'pending' },
      amounts: 'replace',
    },
    programs: [
      { code: '71', name: 'Wickstar Charts', hosts: both('wickstar') },
      { code: '88', name: 'Emberlamp', hosts: both('emberlamp') },
    ],
  },
  {
    name: 'Osprenet',
    currency: 'JPY',
    zone: 'UTC',
    linkFormat: {
      version: 1,
      hosts: both('*.click.osprenet'),
      path: '/x',
      parameters: [
        { name: '//1', role: 'account' },
        { name: 'banner', role: 'creative', value: '' },
        { name: 'tag', role: 'slot' },
        { name: 'to', role: 'page', codings: ['base64url'] },
      ],
    },
    slots: [{ name: 'tag', length: 40, fill: '{click}', allowed: 'any', merchant: false }],
    postback: {
      placeholders: {
        click: '%tag%',
        status: '%status%',
        amount: '%reward%',
        currency: '%cur%',
        txn: '%id%',
      },
      fields: {},
      statuses: { new: 'pending', ok: 'approved', void: 'reversed' },
      amounts: 'replace',
    },
    programs: [{ code: '', name: 'Umbra & Finch', hosts: both('umbrafinch') }],
  },
  {
    name: 'Vennor Direct',
    currency: 'GBP',
    zone: 'Europe/London',
    linkFormat: {
      version: 1,
      hosts: both('vennor'),
      path: '/**',
      parameters: [
        { name: 'friend', role: 'account' },
        { name: 'note', role: 'slot' },
      ],
    },
    slots: [{ name: 'note', length: 32, fill: '{click}', allowed: 'any', merchant: false }],
    postback: {
      placeholders: { click: '{note}', event: '{what}', txn: '{order}' },
      fields: {},
      statuses: {},
      amounts: 'replace',
    },
    programs: [
      {
        code: '',
        name: 'Vennor Direct',
        hosts: both('vennor'),
        rules: { cloak: false, name: 'Vennor', ownLinks: false, mail: true, social: true },
      },
    ],
  },
];

/**
 * A network that ships, as it stands in a register.
 *
 * @param known the network, or its name
 * @param keys of its postback and pixel addresses; nobody else may know them
 * @throws RangeError for a name that none has
 */
export const networkRecord = (
  known: KnownNetwork | string,
  id: string,
  keys: { readonly key: string; readonly pixelKey: string },
): Network => {
  const found = typeof known === 'string' ? knownNetworks.find(({ name }) => name === known) : known;
  if (!found) throw new RangeError(`No network called ${String(known)} ships.`);
  const { programs: _, postback, ...rest } = found;
  return { ...rest, id, postback: { ...postback, ...keys } };
};
