import type { IncomingMessage, ServerResponse } from 'node:http';
import { check } from '#core/catalogue';
import { isSourceName, readTarget } from '#core/hop';
import { beaconBody } from '#core/visits';
import type { Host } from '../feed/index.ts';
import type { Mails } from '../mails.ts';
import { readBody } from './body.ts';
import { makeClosed } from './closed.ts';
import type { HopParts } from './hop.ts';
import { refuse } from './refuse.ts';

/**
 * The script for pages whose links may not be cloaked: it reports a click on an element that carries
 * `data-fernhop="LINK"`, with the page it happened on. Without it the links work the same.
 */
const placeScript = `(() => {
  const here = new URL(document.currentScript.src);
  document.addEventListener('click', (event) => {
    const link = event.target instanceof Element && event.target.closest('a[data-fernhop]');
    if (!link) return;
    const body = { event: 'click', link: link.dataset.fernhop, page: location.href.slice(0, 1000) };
    if (link.dataset.source) body.source = link.dataset.source;
    navigator.sendBeacon(here.origin + '/beacon', JSON.stringify(body));
  }, true);
})();
`;

/**
 * The script for a person's own pages. On the page a link leads to, it keeps the click ID that stands in the address; on
 * the page that thanks, where it carries `data-key`, it tells by the pixel what happened.
 */
const thanksScript = `(() => {
  const { dataset, src } = document.currentScript;
  const name = dataset.parameter || 'click';
  const here = new URL(location.href).searchParams.get(name);
  try {
    if (here) sessionStorage.setItem('fernhop-click', here);
  } catch {}
  if (!dataset.key) return;
  let click = here || '';
  try {
    click = click || sessionStorage.getItem('fernhop-click') || '';
  } catch {}
  const told = new URLSearchParams({ click });
  for (const field of ['event', 'status', 'amount', 'currency', 'txn'])
    if (dataset[field]) told.set(field, dataset[field]);
  new Image().src = new URL(src).origin + '/pixel/' + dataset.key + '.gif?' + told;
})();
`;

const robotsText = (choice: Host['domain']['robots']): string =>
  // RFC 9309: an empty rule allows everything, so that crawlers come and read the noindex of each hop.
  choice === 'keep-away' ? 'User-agent: *\nDisallow: /\n' : 'User-agent: *\nDisallow:\n';

/** Makes the handler of what a link domain answers besides hops: robots.txt, the page script and its beacon. */
export const makePage = ({
  checkToken,
  table,
  mails,
  visitors,
  peers,
  countryOf,
  append,
  now,
}: HopParts & { readonly mails: Mails; readonly checkToken: string }) => {
  const closed = makeClosed({ table, mails, now });
  return async (request: IncomingMessage, response: ServerResponse, host: Host): Promise<void> => {
    const { method = '' } = request;
    const path = readTarget(request.url ?? '')?.path;
    if (path === undefined) {
      refuse(response, 400, 'This address cannot be read.');
      return;
    }
    if (path === 'beacon') {
      const text = method === 'POST' ? await readBody(request, 4096) : undefined;
      if (method !== 'POST') {
        refuse(response, 405, 'A beacon is sent by POST.', { Allow: 'POST' });
        return;
      }
      const beacon = text === undefined ? undefined : check(beaconBody, parse(text));
      if (!beacon?.ok) {
        refuse(response, 400, 'This beacon cannot be read.');
        return;
      }
      const at = now();
      const ua = (request.headers['user-agent'] ?? '').slice(0, 512);
      const address = peers.address(request);
      const { source } = beacon.value;
      append({
        kind: 'beacon',
        at,
        ...beacon.value,
        source: isSourceName(source) ? source : '',
        ua,
        visitor: visitors.of(address, ua, at),
        country: countryOf(address),
      });
      response.writeHead(204, { 'Access-Control-Allow-Origin': '*' });
      response.end();
      return;
    }
    if (method === 'POST' && (await closed(request, response, host))) return;
    if (method !== 'GET' && method !== 'HEAD') {
      refuse(response, 405, 'A short link is opened by GET.', { Allow: 'GET, HEAD' });
      return;
    }
    const send = (type: string, text: string, headers: Record<string, string> = {}) => {
      response.writeHead(200, {
        'Content-Type': `${type}; charset=utf-8`,
        'Content-Length': String(Buffer.byteLength(text)),
        'X-Content-Type-Options': 'nosniff',
        ...headers,
      });
      response.end(method === 'HEAD' ? undefined : text);
    };
    if (path === '.well-known/fernhop') send('text/plain', checkToken, { 'Cache-Control': 'no-store' });
    else if (path === 'robots.txt')
      send('text/plain', robotsText(host.domain.robots), { 'Cache-Control': 'max-age=3600' });
    else if (path === 'place.js' || path === 'thanks.js')
      send('text/javascript', path === 'place.js' ? placeScript : thanksScript, {
        'Cache-Control': 'max-age=3600',
        // Pages of other sites are what it is for.
        'Cross-Origin-Resource-Policy': 'cross-origin',
      });
    else refuse(response, 404, 'There is no link at this address.');
  };
};

const parse = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
};
