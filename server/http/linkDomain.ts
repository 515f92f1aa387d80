import type { IncomingMessage, ServerResponse } from 'node:http';
import { check, present, ulidAlphabet } from '#core/catalogue';
import { clickTime, readTarget } from '#core/hop';
import { beaconBody } from '#core/visits';
import type { Host } from '../feed/index.ts';
import type { WaitingList } from '../waitingList.ts';
import { readBody } from './body.ts';
import { makeWaitingListForm } from './waitingListForm.ts';
import type { HopParts } from './hop.ts';
import { refuse } from './refuse.ts';
import { pathOf } from './reserved.ts';

/**
 * The script for pages whose links may not be cloaked: at a click on an element that carries `data-fernhop="LINK"` it makes
 * a click ID (a ULID), puts it into the parameter that `data-click` names, and reports the click with the page it happened
 * on. Without it the links work the same.
 */
const placeScript = `(() => {
  const here = new URL(document.currentScript.src);
  const letters = '${ulidAlphabet}';
  const clickId = () => {
    let time = '';
    for (let at = Date.now(), i = 0; i < 10; i++, at = Math.floor(at / 32)) time = letters[at % 32] + time;
    return time + Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => letters[byte % 32]).join('');
  };
  const onClick = (event) => {
    const link = event.target instanceof Element && event.target.closest('a[data-fernhop]');
    if (!link || (event.type === 'auxclick' && event.button !== 1)) return;
    const { fernhop, click: slot, source } = link.dataset;
    const click = clickId();
    if (slot)
      link.href = link.href
        .split(/(?=[?&#])/)
        .map((part) => (part.slice(1).startsWith(slot + '=') ? part[0] + slot + '=' + click : part))
        .join('');
    const body = { event: 'click', click, link: fernhop, page: location.href.slice(0, 1000) };
    if (source) body.source = source;
    navigator.sendBeacon(here.origin + '/beacon', JSON.stringify(body));
  };
  document.addEventListener('click', onClick, true);
  document.addEventListener('auxclick', onClick, true);
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
  const parameters = new URLSearchParams({ click });
  for (const field of ['event', 'status', 'amount', 'currency', 'txn'])
    if (dataset[field]) parameters.set(field, dataset[field]);
  new Image().src = new URL(src).origin + '/pixel/' + dataset.key + '.gif?' + parameters;
})();
`;

const robotsText = (choice: Host['domain']['robots']): string =>
  // RFC 9309: an empty rule allows everything, so that crawlers come and read the noindex of each hop.
  choice === 'keep-away' ? 'User-agent: *\nDisallow: /\n' : 'User-agent: *\nDisallow:\n';

/** How far the time in a click ID that a page made may be from ours, in milliseconds: clocks of visitors are set by hand. */
const clockOffMs = 86_400_000;

/** Makes the handler of what a link domain answers besides hops: robots.txt, the page scripts and their beacon. */
export const makeLinkDomain = ({
  checkToken,
  table,
  waitingList,
  visitors,
  peers,
  admission,
  clicks,
  countryOf,
  append,
  now,
}: HopParts & { readonly waitingList: WaitingList; readonly checkToken: string }) => {
  const closed = makeWaitingListForm({ table, waitingList, now });

  const beacon = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    if (request.method !== 'POST') {
      refuse(response, 405, 'A beacon is sent by POST.', { Allow: 'POST' });
      return;
    }
    const text = await readBody(request, 4096);
    const checked = text === undefined ? undefined : check(beaconBody, parse(text));
    const at = now();
    const close = text === undefined ? { Connection: 'close' } : {};
    if (!checked?.ok) {
      refuse(response, 400, 'This beacon cannot be read.', close);
      return;
    }
    const { event, link, click } = checked.value;
    const isGood =
      event === 'click'
        ? table.links.has(link) &&
          Math.abs(at - present(clickTime(click), 'time in a click ID')) <= clockOffMs
        : clicks.has(click, link);
    if (!isGood) {
      refuse(response, 400, 'No such click can have been: its link or its click ID is none of ours.');
      return;
    }
    const address = peers.address(request);
    if (admission.admits(address, request, at, link)) {
      const ua = (request.headers['user-agent'] ?? '').slice(0, 512);
      append({
        kind: 'beacon',
        at,
        ...checked.value,
        ua,
        visitor: visitors.of(address, ua, at),
        country: countryOf(address),
      });
    }
    response.writeHead(204, { 'Access-Control-Allow-Origin': '*' });
    response.end();
  };

  return async (request: IncomingMessage, response: ServerResponse, host: Host): Promise<void> => {
    const { method = '' } = request;
    const path = pathOf(request.url ?? '');
    if (path === 'beacon') return beacon(request, response);
    if (readTarget(request.url ?? '') === undefined) {
      refuse(response, 400, 'This address cannot be read.');
      return;
    }
    if (method === 'POST' && (await closed(request, response, host))) return;
    if (method !== 'GET' && method !== 'HEAD') {
      refuse(response, 405, 'A short link is opened by GET.', { Allow: 'GET, HEAD', Connection: 'close' });
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
