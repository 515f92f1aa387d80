import { randomUUID } from 'node:crypto';
import express from 'express';
import Papa from 'papaparse';
import { states } from './kind.ts';
import type { TrackingLink } from './linkShape.ts';
import type { SimulatedNetwork } from './network.ts';
import { sendings } from './network.ts';
import type { Listed } from './pages.ts';
import { consolePage, linksPage } from './pages.ts';
import { sendPostbacks } from './postback.ts';
import { reportOf } from './report.ts';
import { workbook } from './workbook.ts';

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

const cookie = (header: string | undefined, name: string): string =>
  (header ?? '')
    .split(/;\s*/)
    .find((pair) => pair.startsWith(`${name}=`))
    ?.slice(name.length + 1) ?? '';

/** What a network's site needs besides its books. */
export interface Site {
  readonly origin: string;
  readonly products: readonly Listed[];
  /** Origins of the merchants it sends people to. */
  readonly shops: readonly string[];
  readonly now: () => number;
  /** Told of every delivery that begins. */
  readonly onDelivery: (delivery: Promise<void>) => void;
}

/** Counts the click on a tracking link; gives its number, or nothing where it credits nobody. */
const countClick = (
  network: SimulatedNetwork,
  { account, offer, slots }: TrackingLink,
  request: express.Request,
  response: express.Response,
  at: number,
): string => {
  const { kind } = network;
  const cookieName = `${kind.clickName.slice(0, 2)}_visitor`;
  const visitor = cookie(request.get('cookie'), cookieName) || randomUUID();
  response.cookie(cookieName, visitor, { maxAge: 30 * 86_400_000, httpOnly: true, sameSite: 'lax' });
  if (!kind.accounts.includes(account)) return '';
  return network.click({ at, account, offer, slots, visitor }).number;
};

/** What a network answers on its host. */
export const networkRoutes = (
  network: SimulatedNetwork,
  { origin, products, shops, now, onDelivery }: Site,
): express.Router => {
  const { kind } = network;
  const router = express.Router();
  const links = () => linksPage(kind, origin, products);

  const read = (request: express.Request) =>
    request.method === 'GET'
      ? kind.shape.read({ host: request.hostname, target: request.originalUrl })
      : undefined;
  if (kind.isOwnShop) {
    // Its tracking links are the shop's own pages: the click is counted on the way, and the shop answers.
    router.use((request, response, next) => {
      const link = read(request);
      if (link) {
        const number = countClick(network, link, request, response, now());
        if (number !== '')
          response.cookie(kind.clickName, number, { maxAge: 30 * 86_400_000, sameSite: 'lax' });
      }
      next();
    });
    router.get('/links', (_request, response) => void response.type('html').send(links()));
  } else {
    router.get('/', (_request, response) => void response.type('html').send(links()));
    router.use((request, response, next) => {
      const link = read(request);
      if (!link) {
        next();
        return;
      }
      const { page } = link;
      // It sends people to its merchants' pages and nowhere else, as a network would.
      const known = URL.canParse(page) && shops.includes(new URL(page).origin);
      const target = new URL(known ? page : (shops[0] ?? origin));
      response.set('Cache-Control', 'no-store');
      const number = countClick(network, link, request, response, now());
      if (number !== '') target.searchParams.set(kind.clickName, number);
      response.redirect(302, target.href);
    });
  }

  // The shop reports a sale server to server, with the click number the network gave it.
  router.post('/sale', express.json(), (request, response) => {
    const body: unknown = request.body;
    const { click, minor, currency, event } = (
      typeof body === 'object' && body !== null ? body : {}
    ) as Record<string, unknown>; // any record reads as unknown values
    const transaction =
      typeof minor === 'number' && Number.isSafeInteger(minor)
        ? network.sale(text(click), { minor, currency: text(currency) }, text(event), now())
        : undefined;
    if (!transaction) {
      response.status(422).json({ error: 'no such click' });
      return;
    }
    onDelivery(sendPostbacks(network, transaction, now));
    response.json({ order: transaction.order });
  });

  router.get('/console', (_request, response) => void response.type('html').send(consolePage(network)));

  const form = express.urlencoded({ extended: false });
  /** A form of the console: does its work and shows the console again. */
  const act = (path: string, work: (field: (name: string) => string) => void) =>
    router.post(`/console/${path}`, form, (request, response) => {
      const body = request.body as Record<string, unknown>; // urlencoded gives a record
      work((name) => text(body[name]));
      response.redirect(303, '/console');
    });
  act('postback', (field) => network.setPostback(kind.accounts[0], field('offer'), field('url').trim()));
  act('settle', (field) => {
    const state = states.find((s) => s === field('state'));
    const transaction = state && network.settle(field('order'), state, now());
    if (transaction) onDelivery(sendPostbacks(network, transaction, now));
  });
  act('correct', (field) => {
    const amount = /^\d{1,9}(?:\.\d\d)?$/.test(field('amount')) ? field('amount') : undefined;
    const before = network.transactions.find(({ order }) => order === field('order'));
    if (amount === undefined || !before) return;
    const minor =
      before.commission.currency === 'JPY'
        ? Math.round(Number(amount))
        : Number(amount.replace('.', '')) * (amount.includes('.') ? 1 : 100);
    const transaction = network.correct(before.order, minor, now());
    if (transaction) onDelivery(sendPostbacks(network, transaction, now));
  });
  act('repeat', (field) => {
    const transaction = network.transactions.find(({ order }) => order === field('order'));
    if (transaction) onDelivery(sendPostbacks(network, transaction, now));
  });
  act('sending', (field) => {
    const sending = sendings.find((s) => s === field('sending'));
    for (const { order, state } of sending ? network.setSending(sending) : []) {
      const transaction = network.transactions.find((t) => t.order === order);
      if (transaction) onDelivery(sendPostbacks(network, transaction, now, undefined, state));
    }
  });

  router.get('/report', (request, response) => {
    const account = text(request.query['account']);
    response
      .attachment(kind.report.file)
      .type(kind.report.file.endsWith('tsv') ? 'text/tab-separated-values' : 'text/csv');
    response.send(reportOf(network, account));
  });
  router.get('/report.xlsx', (request, response) => {
    const { data } = Papa.parse<string[]>(reportOf(network, text(request.query['account'])), {
      skipEmptyLines: true,
    });
    response.attachment(kind.report.file.replace(/\w+$/, 'xlsx')).send(Buffer.from(workbook(data)));
  });
  return router;
};
