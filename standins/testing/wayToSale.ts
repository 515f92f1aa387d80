import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect } from 'vitest';
import type { Network, PostbackField, PostbackProfile, Program, ReportRole, Role } from '#core/catalogue';
import {
  checkPostback,
  guessReport,
  learnPostback,
  likelyCover,
  readPostback,
  readReport,
  reportParts,
  statusMeant,
  withLearned,
} from '#core/conversions';
import { openTable } from '#core/formats';
import { clickId, compileDestination, expand } from '#core/hop';
import { compareSamples, deepLink, draftNetwork, fillSlots, readLink } from '#core/link-parts';
import { Dataset } from '#core/queries';
import { hopRecord, postbackRecord } from '../../core/visits/testing/records.ts';
import type { Description } from './describedKind.ts';
import { describedKind } from './describedKind.ts';
import type { Kind, State } from '../network/kind.ts';
import { SimulatedNetwork } from '../network/network.ts';
import { fillPlaceholders } from '../network/postback.ts';
import { reportOf } from '../network/report.ts';

const port = 4701;
const now = Date.parse('2026-11-19T11:20:00Z');

/** What a person has to say themselves on the way, because it is asked. */
export interface Said {
  parts: number;
  placeholders: number;
  words: number;
  columns: number;
}

interface Page {
  readonly page: string;
  readonly offer: string;
}

const copiedFrom = (kind: Kind, pages: readonly Page[]): string[] =>
  pages.map(({ page, offer }) =>
    kind.shape.link(`http://${kind.host}:${port}`, kind.accounts[0], offer, page),
  );

/** The roles of a network's parts: what is read stands, what is asked a person says, who knows account, codes and slots. */
const rolesOf = (kind: Kind, copied: readonly string[], said: Said): Map<string, Role> => {
  const codes = kind.offers.map(({ code }) => code);
  const roles = new Map<string, Role>();
  for (const { name, role, open, values } of compareSamples(copied)) {
    const truth: Role = values.every((value) => value === kind.accounts[0])
      ? 'account'
      : values.every((value) => codes.includes(value))
        ? 'program'
        : kind.slots.includes(name)
          ? 'slot'
          : 'other';
    if (open) said.parts += 1;
    roles.set(name, open ? truth : role);
  }
  return roles;
};

/** The field each placeholder of a description stands for. */
const fieldOf = (value: string, clickSlot: string): PostbackField | undefined => {
  const fields: Readonly<Record<string, PostbackField>> = {
    [`slot ${clickSlot}`]: 'click',
    order: 'txn',
    commission: 'amount',
    state: 'status',
    moment: 'at',
    unix: 'at',
    event: 'event',
    currency: 'currency',
  };
  return fields[value];
};

/** The postback of a network, read from its help text; what is read must be right, what is left open a person says. */
const postbackOf = (
  { postback }: Description,
  help: string,
  clickSlot: string,
  said: Said,
): PostbackProfile => {
  const truths = new Map(
    postback.placeholders.map(({ name, value }) => [postback.style.replace('*', () => name), value]),
  );
  const pairs = learnPostback(help, clickSlot).map((pair) => {
    const field = fieldOf(truths.get(pair.value) ?? '', clickSlot);
    if (pair.field !== undefined) expect([help, pair.value, pair.field]).toEqual([help, pair.value, field]);
    else if (field !== undefined) said.placeholders += 1;
    return { ...pair, field };
  });
  return {
    key: 'a'.repeat(24),
    pixelKey: 'b'.repeat(24),
    amounts: 'replace',
    ...withLearned({ placeholders: {}, fields: {}, statuses: {} }, pairs),
  };
};

/** The network and its programs as they are registered from copied links and a help text. */
export const register = (
  description: Description,
  kind: Kind,
  copied: readonly string[],
  said: Said,
): { network: Network; programs: Program[] } => {
  const draft = draftNetwork(copied, rolesOf(kind, copied, said));
  expect(draft.accounts).toEqual(kind.accounts);
  expect(draft.programs.map(({ code }) => code).toSorted()).toEqual(
    kind.offers.map(({ code }) => code).toSorted(),
  );
  const clickSlot = draft.slots.find(({ fill }) => fill === '{click}')?.name ?? '';
  expect(kind.slots).toContain(clickSlot);
  const lengths = new Map(description.slots.map(({ name, keeps }) => [name, keeps]));
  const network: Network = {
    id: 'net_own',
    name: draft.name,
    currency: description.currency,
    zone: description.zone,
    linkFormat: draft.linkFormat,
    slots: draft.slots.map((slot) => ({ ...slot, length: lengths.get(slot.name) ?? slot.length })),
    postback: postbackOf(description, kind.help ?? '', clickSlot, said),
  };
  const programs = draft.programs.map(({ code, hosts, name }, i): Program => ({
    id: `prg_${i}`,
    network: network.id,
    name,
    code,
    hosts: [...hosts],
    state: 'joined',
  }));
  return { network, programs };
};

/** The postbacks of a sale, pending and approved, over the address that is set at the network. */
const postbacksOf = (books: SimulatedNetwork, order: string, network: Network): PostbackRecordOf[] => {
  const { kind } = books;
  const address = Object.entries(network.postback.placeholders)
    .map(([field, sign]) => `${network.postback.fields[field as PostbackField] ?? field}=${sign}`) // keys are our fields
    .join('&');
  return (['pending', 'approved'] as const).map((state, i) => {
    const at = now + (i + 2) * 60_000;
    const sale = books.settle(order, state, at);
    const click = sale && books.clickOf(sale.click);
    if (!click) throw new Error('An order has its click.');
    const filled = fillPlaceholders(address, kind, kind.values(sale, click, kind.words[state]));
    return {
      state,
      record: postbackRecord({
        seq: i + 2,
        at: at + 400,
        network: network.id,
        via: kind.via,
        ...(kind.via === 'GET' ? { query: filled } : { body: filled }),
      }),
    };
  });
};
type PostbackRecordOf = { readonly state: State; readonly record: ReturnType<typeof postbackRecord> };

/** The words for a state that the network turned out to use, taught one by one as they are asked for. */
const teachWords = (network: Network, postbacks: readonly PostbackRecordOf[], said: Said): Network => {
  let { postback } = network;
  for (const { state, record } of postbacks)
    for (const check of checkPostback(readPostback(record, postback, network.currency), { postback })) {
      if (check.unknownWord === undefined) {
        expect([check.field, check.state]).toEqual([check.field, 'good']);
        continue;
      }
      // Where a meaning is proposed, it is the right one.
      expect([state, undefined]).toContain(statusMeant(check.unknownWord));
      said.words += 1;
      postback = { ...postback, statuses: { ...postback.statuses, [check.unknownWord]: state } };
    }
  return { ...network, postback };
};

const columnRoles: Readonly<Record<string, ReportRole>> = {
  order: 'txn',
  moment: 'at',
  commission: 'amount',
  currency: 'currency',
  state: 'status',
  merchant: 'program',
  event: 'event',
};

/** The network's report, imported as a person does who sets right what is asked or read otherwise than they know it to be. */
const importReport = async (
  { report }: Description,
  books: SimulatedNetwork,
  network: Network,
  said: Said,
) => {
  const opened = await openTable(new TextEncoder().encode(reportOf(books, books.kind.accounts[0])));
  if (!opened.ok) throw new Error(opened.message);
  const { table } = opened;
  const { profile, asks } = guessReport(table, network);
  const columns = Object.fromEntries(
    report.columns.map(({ heading, value }) => {
      const role = value.startsWith('slot ') ? 'click' : (columnRoles[value] ?? 'nothing');
      if (profile.columns[heading] !== role) said.columns += 1;
      return [heading, role];
    }),
  );
  const dates = asks.includes('dates') ? (report.dates.startsWith('MM') ? 'mdy' : 'dmy') : profile.dates;
  const decimal = asks.includes('decimal') ? report.decimal : profile.decimal;
  const { rows, clicks, bad, from, until } = readReport(
    table,
    { ...profile, columns, dates, decimal },
    network,
  );
  expect(bad).toEqual([]);
  return reportParts({
    network: network.id,
    batch: 'way',
    file: report.file,
    at: now + 86_400_000,
    ...likelyCover(from, until, '2026-11-20'),
    rows,
    clicks,
  });
};

/**
 * Goes the way from copied links to a sale that is matched, approved and reconciled, by the functions that the screens use, with
 * a network that a file describes. Whatever is read without asking has to be right.
 */
export const goTheWay = async (description: Description) => {
  const said: Said = { parts: 0, placeholders: 0, words: 0, columns: 0 };
  const { kind, shops } = describedKind(description);
  const pages = shops.flatMap(({ host, offer, products }) =>
    products.map(({ path }): Page => ({ page: `http://${host}:${port}${path}`, offer })),
  );
  const copied = copiedFrom(kind, pages);
  const { network: registered, programs } = register(description, kind, copied, said);

  // A deep link to a page nobody copied is the one the network's own tool gives, with its slots filled; or is asked about.
  let deepLinks = 0;
  for (const { offer, host } of shops) {
    const page = `http://${host}:${port}/new/telescope-9?colour=red`;
    const program = programs.find(({ code }) => code === offer);
    const [theirs = ''] = copiedFrom(kind, [{ page, offer }]);
    const made = program && deepLink(page, registered, program, kind.accounts[0], []);
    if (!made?.ok) continue;
    expect(made.link).toBe(fillSlots(readLink(theirs, [registered], programs)));
    deepLinks += 1;
  }

  // A reader follows the short link; the network counts the click under what its slot keeps.
  const [pasted = ''] = copied;
  const destination = fillSlots(readLink(pasted, [registered], programs));
  const click = clickId(now, crypto.getRandomValues(new Uint8Array(10)));
  const template = compileDestination(destination);
  if (!template.ok) throw new Error(`A made link can be followed: ${destination}`);
  const sentTo = new URL(expand(template.value, (name) => (name === 'click' ? click : 'garden')));
  const target = sentTo.href.slice(sentTo.origin.length);
  const tracked = kind.shape.read({ host: sentTo.hostname, target });
  if (!tracked) throw new Error(`${kind.name} knows its own link ${sentTo.href}`);
  expect(tracked).toMatchObject({ account: kind.accounts[0], ...pages[0] });
  const books = new SimulatedNetwork(kind, join(mkdtempSync(join(tmpdir(), 'way-')), 'books.json'));
  const counted = books.click({
    at: now + 500,
    visitor: 'v',
    account: tracked.account,
    offer: tracked.offer,
    slots: tracked.slots,
  });
  const price = { minor: 129_900, currency: description.currency };
  const sale = books.sale(counted.number, price, 'sale', now + 60_000);
  if (!sale) throw new Error('Who came by a counted click can buy.');

  const postbacks = postbacksOf(books, sale.order, registered);
  const network = teachWords(registered, postbacks, said);
  const data = new Dataset();
  data.setRecords({
    networks: [network],
    programs,
    links: [
      {
        id: 'lnk_own',
        domain: 'dom_a',
        slug: 'own',
        network: network.id,
        program: programs[0]?.id,
        destination,
      },
    ],
    reports: await importReport(description, books, network, said),
  });
  data.add([
    hopRecord({ seq: 1, at: now, click, link: 'lnk_own' }),
    ...postbacks.map(({ record }) => record),
  ]);
  return { said, deepLinks, data, network, click, sale };
};
