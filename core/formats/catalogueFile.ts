import * as v from 'valibot';
import type { Checked, Network, PostbackSecrets, Problem, RecordKind, RecordOf } from '#core/catalogue';
import { checkRecord, openNetwork, postbackSecrets, recordKinds, recordSchemas } from '#core/catalogue';

const head = {
  format: v.literal('fernhop-catalogue'),
  version: v.literal(1),
  at: v.number(),
  /** Whether postback keys and shared secrets are part of the file. */
  secrets: v.optional(v.picklist(['included', 'left out']), 'included'),
};

/** A whole catalogue as a file: every record under its kind. */
export const catalogueFileSchema = v.strictObject({
  ...head,
  domains: v.array(recordSchemas.domain),
  networks: v.array(v.union([recordSchemas.network, openNetwork])),
  programs: v.array(recordSchemas.program),
  accounts: v.array(recordSchemas.account),
  links: v.array(recordSchemas.link),
  settings: v.optional(recordSchemas.settings),
  reports: v.optional(v.array(recordSchemas.report), []),
  decisions: v.optional(v.array(recordSchemas.decision), []),
  months: v.optional(v.array(recordSchemas.month), []),
  payments: v.optional(v.array(recordSchemas.payment), []),
  rates: v.optional(v.array(recordSchemas.rate), []),
  costs: v.optional(v.array(recordSchemas.cost), []),
  choices: v.optional(v.array(recordSchemas.choice), []),
  promotions: v.optional(v.array(recordSchemas.promotion), []),
  products: v.optional(v.array(recordSchemas.product), []),
  pictures: v.optional(v.array(recordSchemas.picture), []),
  kits: v.optional(v.array(recordSchemas.kit), []),
  sources: v.optional(v.array(recordSchemas.source), []),
  pages: v.optional(v.array(recordSchemas.page), []),
});
export type CatalogueFile = v.InferOutput<typeof catalogueFileSchema>;

/** One record with its kind. */
export type AnyRecord = { [K in RecordKind]: { readonly kind: K; readonly value: RecordOf[K] } }[RecordKind];

const lists = {
  domain: 'domains',
  network: 'networks',
  program: 'programs',
  account: 'accounts',
  link: 'links',
  report: 'reports',
  decision: 'decisions',
  month: 'months',
  payment: 'payments',
  rate: 'rates',
  cost: 'costs',
  choice: 'choices',
  promotion: 'promotions',
  product: 'products',
  picture: 'pictures',
  kit: 'kits',
  source: 'sources',
  page: 'pages',
} as const;

/** A network without its keys and secrets. */
const withoutSecrets = (network: Network): object => {
  const open = Object.entries(network.postback).filter(
    ([name]) => !(postbackSecrets as readonly string[]).includes(name),
  );
  return { ...network, postback: Object.fromEntries(open) };
};

/**
 * Writes a catalogue as JSON. With `secrets` the postback keys and what is shared with networks are part of it, so the file
 * is as secret as they are; it says which it is.
 */
export const writeCatalogue = (
  records: readonly AnyRecord[],
  at: number,
  secrets: 'included' | 'left out' = 'included',
): string => {
  const recordsOf = (kind: RecordKind) =>
    records.flatMap((record): object[] =>
      record.kind !== kind
        ? []
        : record.kind === 'network' && secrets === 'left out'
          ? [withoutSecrets(record.value)]
          : [record.value],
    );
  const [settings] = recordsOf('settings');
  return `${JSON.stringify(
    {
      format: 'fernhop-catalogue',
      version: 1,
      at,
      secrets,
      ...Object.fromEntries(
        Object.entries(lists).map(([kind, list]) => [list, recordsOf(kind as keyof typeof lists)]),
      ), // its own keys
      ...(settings && { settings }),
    },
    undefined,
    2,
  )}\n`;
};

/** A network's record with keys, where the file left them out. */
const withSecrets = (value: unknown, secretsOf: (network: string) => PostbackSecrets): unknown => {
  const open = v.safeParse(openNetwork, value);
  if (!open.success) return value;
  return { ...open.output, postback: { ...open.output.postback, ...secretsOf(open.output.id) } };
};

/**
 * Reads such a file. Records that are wrong are named one by one; the others are given all the same.
 *
 * @param secretsOf the keys of a network whose file leaves them out: those it has here, or new ones
 */
export const readCatalogue = (
  text: string,
  secretsOf: (network: string) => PostbackSecrets,
): Checked<{ records: AnyRecord[]; problems: Problem[] }> => {
  let file: unknown;
  try {
    file = JSON.parse(text);
  } catch {
    return { ok: false, problems: [{ path: '', message: 'This is no JSON.' }] };
  }
  const opened = v.safeParse(v.looseObject(head), file);
  if (!opened.success)
    return {
      ok: false,
      problems: [{ path: '', message: 'This is no catalogue of Fernhop, or of a later version.' }],
    };
  const records: AnyRecord[] = [];
  const problems: Problem[] = [];
  for (const kind of recordKinds) {
    const values =
      kind === 'settings' ? [opened.output['settings']].filter(Boolean) : opened.output[lists[kind]];
    if (!Array.isArray(values)) continue;
    for (const [i, value] of values.entries()) {
      const checked = checkRecord(kind, kind === 'network' ? withSecrets(value, secretsOf) : value);
      // The record is of the kind it was checked as.
      if (checked.ok) records.push({ kind, value: checked.value } as AnyRecord);
      else
        problems.push(
          ...checked.problems.map((p) => ({ path: `${kind} ${i + 1}, ${p.path}`, message: p.message })),
        );
    }
  }
  return { ok: true, value: { records, problems } };
};
