import * as v from 'valibot';
import type { Checked, Problem, RecordKind, RecordOf } from '#core/catalogue';
import { checkRecord, recordKinds, recordSchemas } from '#core/catalogue';

const head = { format: v.literal('fernhop-catalogue'), version: v.literal(1), at: v.number() };

/** A whole catalogue as a file: every record under its kind. */
export const catalogueFileSchema = v.strictObject({
  ...head,
  domains: v.array(recordSchemas.domain),
  networks: v.array(recordSchemas.network),
  programs: v.array(recordSchemas.program),
  accounts: v.array(recordSchemas.account),
  links: v.array(recordSchemas.link),
  settings: v.optional(recordSchemas.settings),
  reports: v.optional(v.array(recordSchemas.report), []),
  decisions: v.optional(v.array(recordSchemas.decision), []),
  months: v.optional(v.array(recordSchemas.month), []),
  payments: v.optional(v.array(recordSchemas.payment), []),
  rates: v.optional(v.array(recordSchemas.rate), []),
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
} as const;

/** Writes a catalogue as JSON. Postback keys are part of it, so the file is as secret as they are. */
export const writeCatalogue = (records: readonly AnyRecord[], at: number): string => {
  const of = (kind: RecordKind) =>
    records.filter((record) => record.kind === kind).map((record) => record.value);
  const [settings] = of('settings');
  return `${JSON.stringify(
    {
      format: 'fernhop-catalogue',
      version: 1,
      at,
      ...Object.fromEntries(
        Object.entries(lists).map(([kind, list]) => [list, of(kind as keyof typeof lists)]),
      ), // its own keys
      ...(settings && { settings }),
    },
    undefined,
    2,
  )}\n`;
};

/** Reads such a file. Records that are wrong are named one by one; the others are given all the same. */
export const readCatalogue = (text: string): Checked<{ records: AnyRecord[]; problems: Problem[] }> => {
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
      const checked = checkRecord(kind, value);
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
