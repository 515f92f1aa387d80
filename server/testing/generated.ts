import type { Link } from '#core/catalogue';
import type { JournalRecord } from '#core/visits';
import type { ServerAddress } from '../client.ts';
import { changeOf, firstRecords, readJournal, sendChanges } from '../client.ts';
import type { Running } from './process.ts';
import { Chance } from './chance.ts';
import { headerOf, sendRaw, statusOf } from './raw.ts';
import { testDomain, testLink } from './records.ts';
import type { Aim, MadeRequest } from './requests.ts';
import { chosenClick, makeRequest } from './requests.ts';

/** Requests that are under way at the same time. */
const lanes = 16;
const destination = 'https://shop.example/p?ref1={click}&s={source}';

/** Fills an empty server with links of every kind, and tells where its addresses are. */
export const fillForRequests = async (server: ServerAddress): Promise<Aim> => {
  const { network, key } = firstRecords(server.port);
  const domain = testDomain;
  const link = (slug: string, more: Partial<Link> = {}) => testLink(slug, { destination, ...more });
  const links = [
    link('kit', { hop: { pass: 'all' } }),
    link('page', { hop: { page: 'refresh', twice: true, pass: 'all' } }),
    link('script', { hop: { page: 'script', pass: 'all' } }),
    link('frame', { hop: { page: 'frame', pass: 'all' } }),
    link('closed', { hours: { until: '2026-01-01T00:00' } }),
    link('gone', { archived: { at: 1 } }),
  ];
  const { refused } = await sendChanges(server, [
    changeOf('domain', domain),
    changeOf('network', network),
    ...links.map((one) => changeOf('link', one)),
  ]);
  if (refused[0]) throw new Error(refused[0].message);
  return {
    port: server.port,
    host: domain.host,
    postbackKey: key,
    pixelKey: network.postback.pixelKey,
    slugs: links.map(({ slug }) => slug),
  };
};

/** What is wrong with an answer to a made-up request; undefined where it is as it has to be. */
const wrongWith = ({ what }: MadeRequest, answer: string): string | undefined => {
  const status = statusOf(answer);
  // The connection of a request that no parser could take may be closed without a word.
  if (Number.isNaN(status)) return answer === '' ? undefined : 'no status';
  if (status >= 500 && !(status === 503 && what === 'hop')) return `status ${status}`;
  if (headerOf(answer, 'X-Injected') !== undefined) return 'a header was injected';
  if (answer.includes('<script>alert(1)')) return 'a script was let in';
  const location = headerOf(answer, 'Location');
  if (location !== undefined) {
    const url = new URL(location);
    if (url.origin !== 'https://shop.example' || url.pathname !== '/p' || url.username !== '')
      return `it leads to ${location}`;
    if (url.searchParams.get('ref1') === chosenClick) return 'a visitor chose the click ID';
  }
  if (answer.includes(`ref1=${chosenClick}`)) return 'a visitor chose the click ID';
  if (what === 'api' && status === 200 && !answer.endsWith('\r\n\r\n{"ok":true}'))
    return 'the API answered without a key';
  return undefined;
};

/** What a run of made-up requests came to. */
export interface GeneratedReport {
  readonly requests: number;
  /** How many of each kind were answered with each status. */
  readonly answers: ReadonlyMap<string, number>;
  /** Postbacks with a known key that were answered 200. */
  readonly acknowledged: number;
  readonly faults: readonly string[];
}

/**
 * Sends made-up requests, then looks whether each answer was as it has to be, and whether each postback that was answered
 * 200 is in the journal byte for byte, exactly once, and no other is.
 */
export const runGenerated = async (
  server: Running,
  aim: Aim,
  count: number,
  seed: number,
): Promise<GeneratedReport> => {
  const chance = new Chance(seed);
  const answers = new Map<string, number>();
  const faults: string[] = [];
  const sent = new Map<string, { request: NonNullable<MadeRequest['postback']>; status: number }>();
  let next = 0;
  const lane = async (): Promise<void> => {
    while (next < count && faults.length < 20) {
      const n = next++;
      const request = makeRequest(chance, aim, n);
      const answer = await sendRaw(server.port, request.bytes);
      const status = statusOf(answer);
      const name = `${request.what} ${status}`;
      answers.set(name, (answers.get(name) ?? 0) + 1);
      const wrong = wrongWith(request, answer);
      if (wrong !== undefined) {
        const begin = JSON.stringify(request.bytes.toString('latin1').slice(0, 300));
        faults.push(`request ${n} of seed ${seed}: ${wrong}, to ${begin}`);
      }
      if (request.postback) sent.set(request.postback.tag, { request: request.postback, status });
    }
  };
  await Promise.all(Array.from({ length: lanes }, lane));

  const kept = new Map<string, Extract<JournalRecord, { kind: 'postback' }>[]>();
  for (const record of await readJournal(server)) {
    if (record.kind !== 'postback') continue;
    const tag = record.query.slice(0, record.query.indexOf('&') + 1);
    kept.set(tag, [...(kept.get(tag) ?? []), record]);
  }
  let acknowledged = 0;
  for (const [tag, { request, status }] of sent) {
    const records = kept.get(tag) ?? [];
    const [record] = records;
    if (status !== 200) {
      if (record) faults.push(`${tag} was answered ${status} and kept`);
      continue;
    }
    acknowledged += 1;
    if (!record || records.length > 1)
      faults.push(`${tag} was answered 200 and kept ${records.length} times`);
    else {
      const body =
        record.bytes !== undefined
          ? Buffer.from(record.bytes, 'base64')
          : record.body === null
            ? null
            : Buffer.from(record.body, 'utf8');
      const same = body === null ? request.body === null : request.body !== null && body.equals(request.body);
      if (!same || !Buffer.from(record.query, 'latin1').equals(request.query))
        faults.push(`${tag} was kept with other bytes`);
    }
  }
  return { requests: count, answers, acknowledged, faults };
};
