import type { RecordKind } from '#core/catalogue';
import { fieldName } from '#core/catalogue';
import type { Row, ServerState } from '../sync/index.ts';
import { count } from '../theme/formats.ts';

const kinds: Readonly<Record<RecordKind, string>> = {
  domain: 'Domain',
  network: 'Network',
  program: 'Program',
  account: 'Account tag',
  link: 'Link',
  settings: 'Settings',
  report: 'Report',
  decision: 'Decision',
  month: 'Closed month',
  payment: 'Payment',
  rate: 'Rate',
  cost: 'Cost',
  choice: 'Decision on what pays',
  promotion: 'Promotion',
  product: 'Product',
  picture: 'Picture',
  kit: 'Kit',
  source: 'Source',
  page: 'Page',
};
/** The field by which a person knows a record of a kind. */
const known: Readonly<Record<RecordKind, string>> = {
  domain: 'host',
  network: 'name',
  program: 'name',
  account: 'tag',
  link: 'slug',
  settings: '',
  report: 'file',
  decision: 'case',
  month: 'month',
  payment: 'day',
  rate: 'day',
  cost: 'from',
  choice: 'name',
  promotion: 'name',
  product: 'name',
  picture: 'name',
  kit: 'name',
  source: 'source',
  page: 'name',
};

const textOf = (value: object | null, field: string): string => {
  const found: unknown = Object.entries(value ?? {}).find(([name]) => name === field)?.[1];
  return typeof found === 'string' ? found : '';
};

/** A record as a person would call it: `Link saturn-kit`. */
export const recordName = (kind: RecordKind, ...versions: readonly (object | null | undefined)[]): string => {
  const text = versions.map((value) => textOf(value ?? null, known[kind])).find((found) => found !== '');
  return text === undefined ? kinds[kind] : `${kinds[kind]} ${text}`;
};

/** Where a record is shown and mended. */
export const recordAddress = ({ record, kind, value }: Row): string => {
  const network = textOf(value, 'network');
  switch (kind) {
    case 'link':
      return `/links/${record}`;
    case 'network':
      return `/programs/${record}`;
    case 'program':
    case 'account':
      return `/programs/${network}`;
    case 'report':
    case 'decision':
    case 'month':
      return `/reconcile/${network}`;
    case 'payment':
      return `/payments/${network}`;
    case 'product':
      return `/place/products/${record}`;
    case 'kit':
      return `/place/kits/${record}`;
    case 'picture':
      return '/place/kits';
    case 'source':
      return '/place/sources';
    case 'page':
      return '/place/pages';
    case 'cost':
      return '/decide/costs';
    case 'promotion':
      return '/decide/promotions';
    case 'choice':
      return '/decide';
    default:
      return '/setup';
  }
};

/** Fields within fields, where their names alone say too little. */
const within: Readonly<Record<string, string>> = {
  fields: 'name of the parameter',
  placeholders: 'placeholder',
  statuses: 'meaning of the word',
};

/** The way to a field, as a person would say it. */
export const pathName = ([field = '', ...rest]: readonly string[]): string =>
  [fieldName(field), ...rest.map((name) => within[name] ?? name)].join(', ');

/** A value of a field, to be read. */
export const plain = (value: unknown): string => {
  if (value === undefined || value === '') return '(empty)';
  if (value === true) return 'yes';
  if (value === false) return 'no';
  if (typeof value === 'string' || typeof value === 'number') return String(value);
  return Array.isArray(value) && value.every((item) => typeof item === 'string')
    ? value.join(', ')
    : JSON.stringify(value, undefined, 1).replaceAll(/\s+/g, ' ');
};

/** Why what waits is not sent now, and what to do; empty while it is being sent. */
export const whyNotSent = (state: ServerState, problem: string): string => {
  switch (state) {
    case 'asking':
    case 'up':
      return '';
    case 'away':
      return `The server does not answer${problem === '' ? '' : ` (${problem})`}. It is sent once it is back; nothing is to be done.`;
    case 'no key':
      return 'The server refuses the key of this browser. Paste the right one in Setup.';
    case 'cannot write':
      return problem === '' ? 'The server cannot write to its disk. Free some room there.' : problem;
    case 'not our server':
      return 'Something else answers in the place of the server, such as the sign-in page of a network you joined. Sign in there, or change the network.';
    case 'another server':
      return 'Another server answers than the one this browser is filled from. Say above what is to become of what is here.';
  }
};

/** A count of records: `1 record`, `1,200 records`. */
export const records = (n: number): string => `${count(n)} ${n === 1 ? 'record' : 'records'}`;
