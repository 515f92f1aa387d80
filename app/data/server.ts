import { ref, shallowRef } from 'vue';
import type { ChangesAnswer, ChangesPage, Digest, KeptSeal, ServerStory } from '#core/catalogue';
import type { GivenBackRecord } from '#core/visits';
import type { Health, Signed, SyncServer } from '../sync/index.ts';
import { ServerError } from '../sync/index.ts';

const keyName = 'fernhop-key';

/** The key of the server's admin API, as this browser keeps it. */
export const key = ref(localStorage.getItem(keyName) ?? '');

/** The key behind # of an address, as the server's start line has it. */
export const keyIn = (hash: string): string | undefined => /^#key=([\x21-\x7e]+)$/.exec(hash)?.[1];

/** Keeps a key for this browser. */
export const setKey = (value: string): void => {
  key.value = value.trim();
  localStorage.setItem(keyName, key.value);
};

/** A key that an address brought while another one is in use; empty where none waits for an answer. */
export const offeredKey = ref('');

/**
 * Takes the key an address brought: at once where there is none yet, or where the server refuses the one there is; else it
 * is offered, since whoever sends an address could send a key of theirs.
 */
export const takeGivenKey = async (given: string): Promise<void> => {
  if (given === key.value) return;
  if (key.value === '') {
    setKey(given);
    return;
  }
  const status = await fetch('/api/about', { headers: { Authorization: `Bearer ${key.value}` } }).then(
    (answer) => answer.status,
    () => 0,
  );
  if (status === 401) setKey(given);
  else offeredKey.value = given;
};

/**
 * What an answer is that is no answer of ours: a portal of a hotel, a proxy in front of a server that is away. Undefined for
 * an answer of our server.
 *
 * @param signature what our server signs its answers with
 */
const strangeness = (response: Response, signature: string | null): ServerError | undefined => {
  const { status } = response;
  if (response.ok && signature !== null) return undefined;
  const isOurs = response.headers.get('Content-Type')?.startsWith('application/problem+json') ?? false;
  if (isOurs || status === 413) return undefined;
  return status >= 500
    ? new ServerError(0, `A proxy answered ${status} in place of the server.`)
    : new ServerError(0, `Something else than the server answered (${status}).`, true);
};

/**
 * Calls the server.
 *
 * @returns what it answered, and its signature
 * @throws ServerError where it did not answer, answered with a problem, or something else did
 */
const askSigned = async <T extends object>(
  path: string,
  options: RequestInit = {},
  accept: readonly number[] = [],
): Promise<Signed<T>> => {
  const response = await fetch(`/api${path}`, {
    ...options,
    headers: {
      Authorization: `Bearer ${key.value}`,
      'Content-Type': 'application/json',
      ...options.headers,
    },
    signal: AbortSignal.timeout(15_000),
  }).catch((error: unknown) => {
    throw new ServerError(0, error instanceof Error ? error.message : String(error));
  });
  const signature = response.headers.get('Fernhop-Server');
  const strange = strangeness(response, signature);
  if (strange) throw strange;
  if (!response.ok && !accept.includes(response.status)) {
    const problem: { detail?: string } = await response.json().catch(() => ({}));
    throw new ServerError(response.status, problem.detail ?? `${path} was answered ${response.status}.`);
  }
  const body: T = await response.json().catch(() => {
    throw new ServerError(0, 'What answered does not speak as the server does.', true);
  });
  return { ...body, signature: signature ?? '' };
};
const ask = <T extends object>(path: string, options: RequestInit = {}): Promise<T> =>
  askSigned<T>(path, options);

/** What the server last said of how it is. */
export const heardHealth = shallowRef<Signed<Health> | undefined>();

/** Answers that are asked for before it is their turn; each is used once. */
const ahead = new Map<string, Promise<Signed<object>>>();
/** Asks how the server is and which it is, while this browser still reads what it has itself. */
export const askAhead = (): void => {
  if (key.value === '') return;
  for (const path of ['/health', '/about']) {
    const answer = askSigned<object>(path);
    answer.catch(() => undefined); // whoever uses it hears of it
    ahead.set(path, answer);
  }
  // Later it would be old.
  setTimeout(() => ahead.clear(), 10_000);
};
const askOnce = async <T extends object>(path: string): Promise<Signed<T>> => {
  const early = ahead.get(path);
  ahead.delete(path);
  // The same call, so the same answer.
  return early ? ((await early) as Signed<T>) : askSigned<T>(path);
};

/** The server as the catalogue is kept in step with it. */
export const syncServer: SyncServer = {
  health: async () => {
    const health = await askOnce<Health>('/health');
    heardHealth.value = health;
    return health;
  },
  story: async () => {
    const { identity, generations, signature } = await askOnce<ServerStory>('/about');
    return { identity, generations, signature };
  },
  changes: (after) => askSigned<ChangesPage>(`/changes?after=${after}`),
  // A conflict (409) is an answer too.
  send: (changes, signature) =>
    askSigned<ChangesAnswer>(
      '/changes',
      {
        method: 'POST',
        body: JSON.stringify({ changes }),
        headers: { 'Fernhop-Server': signature },
      },
      [409],
    ),
  digest: () => askSigned<{ version: number; kinds: Digest }>('/digest'),
};

/** What the server tells whoever has its key. */
export interface About extends ServerStory {
  readonly testToken: string;
  /** The key was given by the server's environment and cannot be renewed from here. */
  readonly keyIsGiven: boolean;
  /** Files of its journal that are not what was sealed, and how. */
  readonly damages: readonly { readonly file: string; readonly how: string }[];
  /** A proxy that forwards and that `TRUST_PROXY` does not name. */
  readonly unnamedProxy?: { readonly address: string; readonly at: number };
}
export const getAbout = (): Promise<About> => ask('/about');

/** The script of a link domain for the person's pages. */
export interface PlaceScript {
  readonly text: string;
  /** Its size as it is sent, compressed. */
  readonly bytes: number;
  /** How many links it knows, and how many were left out as there are too many. */
  readonly links: number;
  readonly left: number;
}
export const getPlaceScript = (host: string): Promise<PlaceScript> =>
  ask(`/place-script?host=${encodeURIComponent(host)}`);

/** Has the server make a new key, which counts at once, and keeps it here. */
export const renewKey = async (): Promise<void> => {
  const renewed = await ask<{ key: string }>('/key', {
    method: 'POST',
    body: JSON.stringify({ renew: true }),
  });
  setKey(renewed.key);
};
/** Has the server seal its journal now; gives the newest seal, undefined in an empty journal. */
export const sealNow = async (): Promise<KeptSeal | undefined> => {
  const { seal } = await ask<{ seal?: KeptSeal }>('/seal', { method: 'POST', body: '{}' });
  return seal;
};
/** Asks whether a seal is one of the server's chain. */
export const askSeal = async (hash: string): Promise<boolean> => {
  const { known } = await ask<{ known: boolean }>(`/seal?hash=${hash}`);
  return known;
};
/** Tells the server that something was saved as a file, so that it stands in its journal. */
export const tellExported = (what: string, by: string): void => {
  // Away or not, the file is saved.
  ask('/exported', { method: 'POST', body: JSON.stringify({ what, by }) }).catch(() => undefined);
};

/** Gives the server records that it lost. Those it has been given before it passes over. */
export const giveBack = (records: readonly GivenBackRecord[], by: string): Promise<{ taken: number }> =>
  ask('/journal', { method: 'POST', body: JSON.stringify({ records, by }) });

/** A link of which a part cannot be used as it was kept. */
export interface Fault {
  readonly link: string;
  readonly problems: readonly { readonly path: string; readonly message: string }[];
}
export const getFaults = (): Promise<{ faults: readonly Fault[] }> => ask('/faults');
/** A picture of another host's, fetched by the server. */
export const getPicture = async (url: string): Promise<Blob> => {
  const response = await fetch('/api/picture', {
    method: 'POST',
    headers: { Authorization: `Bearer ${key.value}`, 'Content-Type': 'application/json' },
    body: JSON.stringify({ url }),
    signal: AbortSignal.timeout(30_000),
  });
  if (!response.ok) throw new ServerError(response.status, `The picture was answered ${response.status}.`);
  return response.blob();
};

/** An address a visitor left on the page of a closed link. */
export interface Mail {
  readonly at: number;
  readonly link: string;
  readonly mail: string;
  readonly consent: string;
}
export const getWaitingList = (): Promise<{ waitingList: readonly Mail[] }> => ask('/waiting-list');
export const eraseWaitingList = (): Promise<{ erased: number }> => ask('/waiting-list', { method: 'DELETE' });

/** What the address of a sample postback answered; a status of 0 where nothing did. */
export interface SampleAnswer {
  readonly status: number;
  readonly milliseconds: number;
  readonly says: string;
}
export const sendSample = (sample: {
  readonly network: string;
  readonly host: string;
  readonly via: 'GET' | 'form' | 'JSON';
  readonly text: string;
}): Promise<SampleAnswer> => ask('/sample', { method: 'POST', body: JSON.stringify(sample) });

/** Something that looked like a postback and could not be taken. */
export interface RejectedRequest {
  readonly at: number;
  readonly why: string;
  readonly text: string;
}
export const getRejected = (): Promise<{ rejected: readonly RejectedRequest[] }> => ask('/rejected');

/** Whether a domain's links answer, as sentences: what is wrong, and what to do about it. */
export interface DomainCheck {
  readonly good: boolean;
  readonly says: string;
}
export const checkDomain = (host: string): Promise<DomainCheck> =>
  ask('/domain-check', { method: 'POST', body: JSON.stringify({ host }) });
