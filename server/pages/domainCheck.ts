import { lookup } from 'node:dns/promises';
import { isLocalHost, originOfHost } from '#core/catalogue';
import { ask, bytesOf, wordsOf } from './ask.ts';
import { isPublicAddress } from './guard.ts';

/** What keeps a domain's links from answering. */
export type DomainProblem =
  | 'no name'
  | 'another address'
  | 'closed'
  | 'no certificate'
  | 'expired'
  | 'other name'
  | 'untrusted'
  | 'another server'
  | 'not asked';

/** Whether a domain's links answer, as sentences: what is wrong, and what to do about it. */
export interface DomainCheck {
  readonly good: boolean;
  readonly problem?: DomainProblem;
  readonly says: string;
}

/** How a domain is reached from the outside. */
export interface Reach {
  /** The addresses a name leads to; none where it leads nowhere. */
  addresses(host: string): Promise<string[]>;
  /** Rejects with what Node says where nothing answers, or the certificate is none for that name. */
  get(url: URL): Promise<{ readonly status: number; readonly text: string }>;
}

export interface DomainToCheck {
  readonly host: string;
  /** The server's own port, for hosts on this machine. */
  readonly port: number;
  /** What this server answers at `/.well-known/fernhop`. */
  readonly token: string;
  /** The application's host, to know where this server is. */
  readonly appHost: string;
}

/** Where a link domain answers with the token that tells one server from another. */
const checkPath = '/.well-known/fernhop';

/** Reaches a domain over the network, as a visitor would. */
export const overTheNetwork = (port: number, requestMs: number): Reach => ({
  addresses: async (host) =>
    (await lookup(host, { all: true }).catch(() => [])).map(({ address }) => address),
  get: async (url) => {
    const answer = await ask(url, { localPorts: [port] }, requestMs);
    const { bytes } = await bytesOf(answer, 1000);
    return { status: answer.statusCode ?? 0, text: bytes.toString('utf8').trim() };
  },
});

/** What Node calls it when a connection could not be made. */
const closedCodes = new Set(['ECONNREFUSED', 'EHOSTUNREACH', 'ENETUNREACH', 'ETIMEDOUT', 'ABORT_ERR']);
const untrustedCodes = new Set([
  'DEPTH_ZERO_SELF_SIGNED_CERT',
  'SELF_SIGNED_CERT_IN_CHAIN',
  'UNABLE_TO_VERIFY_LEAF_SIGNATURE',
  'UNABLE_TO_GET_ISSUER_CERT_LOCALLY',
  'UNABLE_TO_GET_ISSUER_CERT',
]);

const codeOf = (error: unknown): string =>
  error instanceof Error && 'code' in error ? String(error.code) : '';

/** What a failed request by https says of the certificate, and of whoever is there. */
const readFailure = (error: unknown, host: string, where: string): DomainCheck => {
  const bad = (problem: DomainProblem, says: string): DomainCheck => ({ good: false, problem, says });
  const code = codeOf(error);
  if (code === 'ERR_TLS_CERT_ALTNAME_INVALID') {
    const { message } = error as Error; // it has a code
    const names = /.*altnames: (.*)$/.exec(message)?.[1]?.replaceAll('DNS:', '');
    return bad(
      'other name',
      `The certificate shown at ${where} is for another name${names === undefined ? '' : ` (${names})`}. Let the web server there have one for ${host}.`,
    );
  }
  if (code === 'CERT_HAS_EXPIRED')
    return bad(
      'expired',
      `The certificate of ${host} has expired, so visitors are warned away. Have the web server there renew it; its log says why it did not.`,
    );
  if (untrustedCodes.has(code))
    return bad(
      'untrusted',
      `The certificate of ${host} is signed by nobody whom browsers know. Let the web server there get one from a public authority.`,
    );
  if (code === 'ECONNRESET' || code === 'EPROTO' || code.startsWith('ERR_SSL_'))
    return bad(
      'no certificate',
      `The web server at ${where} shows no certificate for ${host} yet. It may be getting one, which takes some seconds; else its log says why not.`,
    );
  if (closedCodes.has(code) || (error instanceof Error && error.name === 'AbortError'))
    return bad(
      'closed',
      `Nothing answers at ${where} on port 443. Start the web server there, and let ports 80 and 443 through its firewall.`,
    );
  return bad('closed', `${host} could not be asked: ${wordsOf(error)}`);
};

/**
 * Checks a registered domain from the outside: its name leads to this machine, a web server answers there with a certificate
 * for it, and passes it on to this very server.
 */
export const checkDomain = async (
  { host, port, token, appHost }: DomainToCheck,
  reach: Reach,
): Promise<DomainCheck> => {
  const bad = (problem: DomainProblem, says: string): DomainCheck => ({ good: false, problem, says });
  const url = new URL(originOfHost(host, port) + checkPath);
  if (isLocalHost(host)) {
    const answer = await reach.get(url).catch((error: unknown) => wordsOf(error));
    if (typeof answer === 'string') return bad('closed', answer);
    return answer.text === token
      ? { good: true, says: 'This server answers there. No certificate is needed on this machine.' }
      : bad('another server', `Something else answers there, with status ${answer.status}.`);
  }
  const found = await reach.addresses(host);
  const [first] = found;
  if (first === undefined)
    return bad(
      'no name',
      `The name ${host} leads nowhere yet. Make a record for it (A or AAAA) where your DNS is kept; a new one can take an hour until it is seen.`,
    );
  if (!found.every(isPublicAddress))
    return bad(
      'not asked',
      `${host} leads to ${found.join(' and ')}, which visitors cannot reach: it is an address inside a network.`,
    );
  // Where the application is reached is where this server is, unless there are several machines.
  const ours = isLocalHost(appHost) ? [] : await reach.addresses(appHost);
  const isElsewhere = ours.length > 0 && !found.some((address) => ours.includes(address));
  const elsewhere = (check: DomainCheck): DomainCheck =>
    isElsewhere
      ? bad(
          'another address',
          `${host} leads to ${found.join(' and ')}, and this server is at ${ours.join(' and ')}, where ${appHost} leads. Change its record to that. (${check.says})`,
        )
      : check;
  try {
    const { status, text } = await reach.get(url);
    if (text === token) return { good: true, says: `It answers by https, at ${first}.` };
    return elsewhere(
      bad(
        'another server',
        `Something else answers for ${host} at ${first}, with status ${status}. Let the web server there pass this host on to Fernhop, with the Host header as it came.`,
      ),
    );
  } catch (error) {
    return elsewhere(readFailure(error, host, first));
  }
};
