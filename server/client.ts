import { randomBytes } from 'node:crypto';
import type { Change, ChangesAnswer, RecordKind } from '#core/catalogue';
import { knownNetworks, networkRecord } from '#core/link-parts';
import { newDomain, secret } from '#core/catalogue';
import { clickId } from '#core/hop';
import { parseNdjson } from '#core/formats';
import type { JournalRecord } from '#core/visits';
import type { Answer } from '../standins/index.ts';
import { send } from '../standins/index.ts';

/** Where a server is and the key to it. */
export interface ServerAddress {
  readonly port: number;
  readonly key: string;
}

/** Calls the admin API as the application does. */
export const call = (
  place: ServerAddress,
  method: 'GET' | 'POST',
  path: string,
  body?: unknown,
): Promise<Answer> =>
  send(
    `http://localhost:${place.port}/api${path}`,
    {
      method,
      headers: {
        Authorization: `Bearer ${place.key}`,
        Origin: `http://localhost:${place.port}`,
        'Content-Type': 'application/json',
      },
    },
    body === undefined ? undefined : JSON.stringify(body),
  );

/** A fresh change ID. */
export const freshId = (): string => clickId(Date.now(), randomBytes(10));

/** A change that makes or replaces a record. */
export const changeOf = <T extends { readonly id: string }>(
  kind: RecordKind,
  value: T,
  revision = 1,
  by = 'Test',
): Change => ({
  change: freshId(),
  kind,
  record: value.id,
  revision,
  by,
  at: Date.now(),
  value: { ...value },
});

/** Sends changes and gives the answer; throws when the call itself failed. */
export const sendChanges = async (
  place: ServerAddress,
  changes: readonly Change[],
): Promise<ChangesAnswer> => {
  const { status, body } = await call(place, 'POST', '/changes', { changes });
  if (status !== 200 && status !== 409) throw new Error(`changes were answered ${status}: ${body}`);
  const answer: ChangesAnswer = JSON.parse(body);
  return answer;
};

/** Every record of the journal after a `seq`. */
export const readJournal = async (place: ServerAddress, after = 0): Promise<JournalRecord[]> => {
  const { body } = await call(place, 'GET', `/journal?after=${after}`);
  return parseNdjson<JournalRecord>(body);
};

/** The domain, network and program a first link needs. */
export const firstRecords = (port: number) => {
  const known = knownNetworks.find((network) => network.name === 'Harrowmead');
  if (!known) throw new Error('Harrowmead ships.');
  const { programs } = known;
  const key = secret(randomBytes(30));
  return {
    key,
    domain: newDomain('dom_see', 'see.nightledge.localhost', 'Europe/Berlin'),
    network: networkRecord(known, 'net_harrowmead', { key, pixelKey: secret(randomBytes(30)) }),
    program: {
      id: 'prg_polehouse',
      network: 'net_harrowmead',
      name: programs[0]?.name ?? '',
      code: programs[0]?.code ?? '',
      hosts: [...(programs[0]?.hosts ?? [])],
      state: 'joined' as const,
    },
    link: {
      id: 'lnk_saturn',
      domain: 'dom_see',
      slug: 'saturn-kit',
      aliases: ['saturn'],
      title: 'Saturn eyepiece kit',
      destination: `http://t.harrowmead.localhost:${port + 1}/r?by=nl-4471&deal=2093&ref1={click}&ref2={source}&page=http%3A%2F%2Fpolehouse.localhost%3A${port + 1}%2Fkits%2Fsaturn`,
      asText: [],
      network: 'net_harrowmead',
      program: 'prg_polehouse',
      hop: {},
      marks: {},
      notes: '',
      createdAt: 1_790_000_000_000,
    },
  };
};

/** Fills an empty server with one domain, network, program and link; gives the records. */
export const fillFirst = async (place: ServerAddress) => {
  const records = firstRecords(place.port);
  await sendChanges(place, [
    changeOf('domain', records.domain),
    changeOf('network', records.network),
    changeOf('program', records.program),
    changeOf('link', records.link),
  ]);
  return records;
};
