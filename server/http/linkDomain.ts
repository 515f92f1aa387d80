import type { IncomingMessage, ServerResponse } from 'node:http';
import { check, isUlid, present } from '#core/catalogue';
import { clickTime, readTarget } from '#core/hop';
import type { BeaconBody } from '#core/visits';
import { beaconBody, makeIsRobot } from '#core/visits';
import type { Host } from '../feed/index.ts';
import type { Scripts } from '../script/index.ts';
import type { WaitingList } from '../waitingList.ts';
import { readBody } from './body.ts';
import { makeWaitingListForm } from './waitingListForm.ts';
import type { HopParts } from './hop.ts';
import type { PageReadings, Told } from './pageReadings.ts';
import { refuse } from './refuse.ts';
import { pathOf } from './reserved.ts';

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

/** Longest body of a beacon, in bytes: a page with as many links as can be told. */
const longestBeacon = 8192;

/** Tells robots that say so themselves. */
const isRobot = makeIsRobot();

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
  isHosting,
  append,
  scripts,
  readings,
  now,
}: HopParts & {
  readonly waitingList: WaitingList;
  readonly checkToken: string;
  readonly scripts: Pick<Scripts, 'forReaders'>;
  readonly readings: PageReadings;
}) => {
  const closed = makeWaitingListForm({ table, waitingList, now });

  const beacon = async (request: IncomingMessage, response: ServerResponse): Promise<void> => {
    if (request.method !== 'POST') {
      refuse(response, 405, 'A beacon is sent by POST.', { Allow: 'POST' });
      return;
    }
    const text = await readBody(request, longestBeacon);
    const checked = text === undefined ? undefined : check(beaconBody, parse(text));
    const at = now();
    const close = text === undefined ? { Connection: 'close' } : {};
    if (!checked?.ok) {
      refuse(response, 400, 'This beacon cannot be read.', close);
      return;
    }
    const { event, link, click, page } = checked.value;
    const isFresh = Math.abs(at - present(clickTime(click), 'time in a click ID')) <= clockOffMs;
    const isGood =
      event === 'read'
        ? isFresh && /^https?:\/\/./.test(page)
        : event === 'click'
          ? isFresh && table.links.has(link)
          : clicks.of(click, link) !== undefined;
    if (!isGood) {
      refuse(response, 400, 'No such click can have been: its link or its click ID is none of ours.');
      return;
    }
    // A browser names the site that sends it; what is told of another's page is nothing it can know.
    const { origin } = request.headers;
    if (origin !== undefined && origin !== 'null' && !page.startsWith(`${origin}/`)) {
      refuse(response, 400, 'A page tells of itself alone.');
      return;
    }
    const address = peers.address(request);
    const ua = (request.headers['user-agent'] ?? '').slice(0, 512);
    if (admission.admits(address, request, at, link)) {
      if (checked.value.event !== 'click') {
        if (ua !== '' && !isRobot(ua)) readings.add(toldBy(checked.value), at);
      } else {
        const hosting = isHosting(address);
        const { first = '', ...told } = { first: '', ...checked.value };
        append({
          kind: 'beacon',
          at,
          ...told,
          ...(isUlid(first) && { first: first.toUpperCase() }),
          ua,
          visitor: visitors.of(address, ua, at),
          country: countryOf(address),
          ...(hosting !== undefined && { hosting }),
        });
      }
    }
    response.writeHead(204, { 'Access-Control-Allow-Origin': '*' });
    response.end();
  };

  /** What a page tells of itself: one of ours of the click it answered, another of the source its visitor came by through us. */
  const toldBy = (told: Exclude<BeaconBody, { event: 'click' }>): Told => {
    const { event, click, page, seconds } = told;
    if (event === 'time') {
      const { link, source } = present(clicks.of(click, told.link), 'click of the page');
      return { view: click, page, seconds, depth: 0, links: undefined, link, source, scrolled: false };
    }
    const { depth, links = [], first = '', source, scrolled = false } = told; // a page without links of ours tells none
    return {
      ...{ view: click, page, seconds, depth, scrolled },
      links: links.filter((each) => table.links.has(each)),
      link: '',
      source: isUlid(first) ? source : undefined,
    };
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
    const send = (type: string, text: string | Uint8Array, headers: Record<string, string> = {}) => {
      response.writeHead(200, {
        'Content-Type': `${type}; charset=utf-8`,
        'Content-Length': String(Buffer.byteLength(text)),
        'X-Content-Type-Options': 'nosniff',
        ...headers,
      });
      response.end(method === 'HEAD' ? undefined : text);
    };
    const pageScript = {
      'Cache-Control': 'max-age=600, stale-while-revalidate=86400',
      // Pages of other sites are what it is for.
      'Cross-Origin-Resource-Policy': 'cross-origin',
    };
    if (path === '.well-known/fernhop') send('text/plain', checkToken, { 'Cache-Control': 'no-store' });
    else if (path === 'robots.txt')
      send('text/plain', robotsText(host.domain.robots), { 'Cache-Control': 'max-age=3600' });
    else if (path === 'thanks.js') send('text/javascript', thanksScript, pageScript);
    else if (path === 'place.js') {
      const script = await scripts.forReaders(host.domain.host);
      if (!script) {
        refuse(response, 404, 'There is no script for this domain.');
        return;
      }
      const accepted = String(request.headers['accept-encoding'] ?? '');
      const coding = ['br', 'gzip'].find((each) =>
        new RegExp(`\\b${each}\\b(?!\\s*;\\s*q=0(?:\\.0*)?\\s*(?:,|$))`).test(accepted),
      );
      const sent = coding === 'br' ? script.brotli : coding === 'gzip' ? script.gzip : script.text;
      send('text/javascript', sent, {
        ...pageScript,
        Vary: 'Accept-Encoding',
        ...(coding !== undefined && { 'Content-Encoding': coding }),
      });
    } else refuse(response, 404, 'There is no link at this address.');
  };
};

const parse = (text: string): unknown => {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
};
