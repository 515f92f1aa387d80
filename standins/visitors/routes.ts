import express from 'express';
import { isLocalHost } from '#core/catalogue';
import type { Html } from '../html.ts';
import { html, pageOf } from '../html.ts';
import type { Believed, Wanted } from './crowd.ts';
import { Crowd } from './crowd.ts';

/** Host of the page on which visitors are let loose. */
export const visitorsHost = 'visitors.localhost';

const mostVisitors = 5000;
const mostSeconds = 600;
const colour = '#6b5b95';

/** What the form proposes at first. */
const usualCrowd = (port: number): Wanted => ({
  link: `http://see.nightledge.localhost:${port}/saturn-kit~test-crowd`,
  visitors: 120,
  seconds: 20,
  countries: ['DE', 'DE', 'DE', 'GB', 'US'],
  machines: 0.25,
  buying: 0.05,
});
const percent = (share: number): string => String(Math.round(share * 100));

const textIn = (body: unknown, name: string): string => {
  const value: unknown = body !== null && typeof body === 'object' ? Reflect.get(body, name) : undefined;
  return typeof value === 'string' ? value.trim() : '';
};
const numberIn = (body: unknown, name: string, most: number): number | undefined => {
  const text = textIn(body, name);
  const value = Number(text);
  return text !== '' && Number.isInteger(value) && value >= 0 && value <= most ? value : undefined;
};

/** Reads the form; gives what is wrong with it in words. */
const wantedOf = (body: unknown, port: number): Wanted | string => {
  const link = textIn(body, 'link');
  const url = URL.canParse(link) ? new URL(link) : undefined;
  if (url?.protocol !== 'http:' || !isLocalHost(url.hostname) || url.port !== String(port))
    return `A short address of this Fernhop is needed, such as ${usualCrowd(port).link}.`;
  const countries = textIn(body, 'countries')
    .toUpperCase()
    .split(/[\s,]+/)
    .filter((code) => code !== '');
  if (!countries.every((code) => /^[A-Z]{2}$/.test(code)))
    return 'Countries are codes of two letters with commas between them, such as DE, GB, US.';
  const visitors = numberIn(body, 'visitors', mostVisitors);
  const seconds = numberIn(body, 'seconds', mostSeconds);
  const [machines, buying] = [numberIn(body, 'machines', 100), numberIn(body, 'buying', 100)];
  if (!visitors) return `Visitors are a whole number from 1 to ${mostVisitors}.`;
  if (seconds === undefined) return `Seconds are a whole number from 0 to ${mostSeconds}.`;
  if (machines === undefined || buying === undefined) return 'Shares are whole numbers from 0 to 100.';
  return { link, visitors, seconds, countries, machines: machines / 100, buying: buying / 100 };
};

const doneOf = ({ wanted, done, running }: Crowd): Html => {
  const { people, machines, bought, failed, problem } = done;
  return html`<p role="status">
    ${running ? 'They are coming' : 'They came'} to <code>${wanted.link}</code>: ${people} people and
    ${machines} machines of ${wanted.visitors}, ${bought}
    bought${failed === 0 ? '' : `; ${failed} failed, the last with: ${problem}`}.
  </p>`;
};

/**
 * A page on which a person lets visitors loose on this Fernhop.
 *
 * @param port the server's
 * @param believed how the server learns where a visitor is
 */
export const visitorsRoutes = (port: number, believed: Believed | undefined): express.Router => {
  const router = express.Router();
  let crowd: Crowd | undefined;
  const field = (label: string, name: string, value: string, more = '') =>
    html`<p>
      <label>${label}<br /><input type="text" name="${name}" value="${value}" /></label>
      <small>${more}</small>
    </p>`;
  const formOf = (asked: unknown): Html => {
    const of = (name: string, usual: string) => textIn(asked, name) || usual;
    const { link, visitors, seconds, countries, machines, buying } = crowd?.wanted ?? usualCrowd(port);
    const hint = believed?.countryHeader
      ? 'a country named twice comes twice as often'
      : 'this server believes nobody about countries (GEO_HEADER)';
    return html`<form method="post" action="/">
      ${field('Short address', 'link', of('link', link))}
      ${field('Visitors', 'visitors', of('visitors', String(visitors)))}
      ${field('Within seconds', 'seconds', of('seconds', String(seconds)), '0 for as fast as they can')}
      ${field('From countries', 'countries', of('countries', countries.join(', ')), hint)}
      ${field('Machines among them, in %', 'machines', of('machines', percent(machines)), 'half of them say what they are')}
      ${field('People who buy, in %', 'buying', of('buying', percent(buying)))}
      <button>Let them come</button>
    </form>`;
  };
  const page = (asked: unknown, problem = '') => {
    const where = believed
      ? 'Each comes from an address of their own, of a range set apart for measuring.'
      : 'This server believes no proxy on this machine (TRUST_PROXY), so all of them come from here, and whoever has the same browser is the same visitor.';
    const isRunning = crowd?.running === true;
    return pageOf(
      'Visitors',
      colour,
      html`<p>Lets visitors loose on this Fernhop, over HTTP, by way of the network to the shop. ${where}</p>
        ${problem === '' ? '' : html`<p role="alert"><strong>${problem}</strong></p>`}
        ${crowd ? doneOf(crowd) : ''}
        ${
          isRunning
            ? html`<form method="post" action="/stop"><button>Let no more come</button></form>`
            : formOf(asked)
        }`,
      // What is being typed is not to be taken away: the page is asked for anew only where there is no form.
      isRunning ? html`<meta http-equiv="refresh" content="1;url=/" />` : html``,
    );
  };
  // Pages of others are not to let anybody loose.
  router.use((request, response, next) => {
    const { origin } = request.headers;
    const isOwn = origin === undefined || origin === `http://${request.headers.host ?? ''}`;
    if (request.method === 'GET' || isOwn) next();
    else response.status(403).type('text').send('This page alone may ask for visitors.\n');
  });
  router.get('/', (_request, response) => {
    response.type('html').send(page(undefined));
  });
  router.post('/stop', (_request, response) => {
    crowd?.stop();
    response.redirect(303, '/');
  });
  router.post('/', express.urlencoded({ extended: false }), (request, response) => {
    const wanted = wantedOf(request.body, port);
    const problem =
      typeof wanted === 'string'
        ? wanted
        : crowd?.running
          ? 'Some are coming already. Wait for them, or let no more come.'
          : '';
    if (problem !== '' || typeof wanted === 'string') {
      response.status(400).type('html').send(page(request.body, problem));
      return;
    }
    crowd = new Crowd(wanted, believed);
    void crowd.run();
    response.redirect(303, '/');
  });
  return router;
};
