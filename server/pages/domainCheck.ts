import { isLocalHost, originOfHost } from '#core/catalogue';
import { ask, bytesOf, wordsOf } from './ask.ts';
import { addressFor } from './guard.ts';

/** What a domain needs before its links answer, as sentences, and whether all of it is there. */
export interface DomainCheck {
  readonly resolves: string;
  readonly certificate: string;
  readonly hop: string;
  readonly good: boolean;
}

/** Where a link domain answers with the token that tells one server from another. */
const checkPath = '/.well-known/fernhop';

/**
 * Checks a registered domain from the outside: its name resolves, its certificate is valid, and it is this very server
 * that answers there.
 *
 * @param token what this server answers at `checkPath`
 */
export const checkDomain = async (
  { host, port, token }: { readonly host: string; readonly port: number; readonly token: string },
  requestMs: number,
): Promise<DomainCheck> => {
  const local = isLocalHost(host);
  const url = new URL(originOfHost(host, port) + checkPath);
  const bounds = { localPorts: [port] };
  const bad = (more: Partial<DomainCheck>): DomainCheck => ({
    resolves: 'Its name was not looked up.',
    certificate: 'Not looked at.',
    hop: 'Not asked.',
    good: false,
    ...more,
  });
  let resolves: string;
  try {
    const { address } = await addressFor(url, bounds);
    resolves = `Its name leads to ${address}.`;
  } catch (error) {
    return bad({ resolves: wordsOf(error) });
  }
  const answers = async (at: URL): Promise<string> => {
    const answer = await ask(at, bounds, requestMs);
    const { bytes } = await bytesOf(answer, 1000);
    return bytes.toString('utf8').trim() === token
      ? 'This server answers there.'
      : `Something else answers there, with status ${answer.statusCode ?? 0}. Point the name at this server, or its proxy at it.`;
  };
  try {
    const hop = await answers(url);
    const certificate = local ? 'None is needed on this machine.' : 'Its certificate is valid.';
    return { resolves, certificate, hop, good: hop.startsWith('This') };
  } catch (error) {
    const certificate = wordsOf(error);
    if (local) return bad({ resolves, certificate: 'None is needed on this machine.', hop: certificate });
    // Without https it may answer all the same; visitors then see a warning or nothing.
    const plain = await answers(new URL(`http://${host}${checkPath}`)).catch((failed: unknown) =>
      wordsOf(failed),
    );
    return bad({ resolves, certificate, hop: `Without https: ${plain}` });
  }
};
