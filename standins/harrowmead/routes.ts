import { randomUUID } from 'node:crypto';
import express from 'express';
import type { Network, State } from './network.ts';
import { accounts } from './network.ts';
import { consolePage, linksPage } from './pages.ts';
import { sendPostbacks } from './postback.ts';
import { reportOf } from './report.ts';

const states: readonly State[] = ['open', 'confirmed', 'cancelled', 'settled'];

const text = (value: unknown): string => (typeof value === 'string' ? value : '');

const cookie = (header: string | undefined, name: string): string =>
  (header ?? '')
    .split(/;\s*/)
    .find((pair) => pair.startsWith(`${name}=`))
    ?.slice(name.length + 1) ?? '';

/** What the network answers on its host. */
export const networkRoutes = (
  network: Network,
  origin: string,
  products: readonly { name: string; page: string; deal: string }[],
  shops: readonly string[],
  now: () => number,
  onDelivery: (delivery: Promise<void>) => void,
): express.Router => {
  const router = express.Router();

  router.get('/', (_request, response) => void response.type('html').send(linksPage(origin, products)));

  router.get('/r', (request, response) => {
    const q = request.query;
    const page = text(q['page']);
    // It sends people to its merchants' pages and nowhere else, as a network would.
    const known = URL.canParse(page) && shops.includes(new URL(page).origin);
    const target = new URL(known ? page : (shops[0] ?? origin));
    const visitor = cookie(request.get('cookie'), 'hm_visitor') || randomUUID();
    response.set('Cache-Control', 'no-store');
    response.cookie('hm_visitor', visitor, { maxAge: 30 * 86_400_000, httpOnly: true, sameSite: 'lax' });
    const account = text(q['by']);
    if (accounts.some((a) => a === account)) {
      const click = network.click({
        at: now(),
        account,
        deal: text(q['deal']),
        ref1: text(q['ref1']),
        ref2: text(q['ref2']),
        visitor,
      });
      target.searchParams.set('hmclick', click.number);
    }
    response.redirect(302, target.href);
  });

  // The shop reports a sale server to server, with the click number the network gave it.
  router.post('/sale', express.json(), (request, response) => {
    const body: unknown = request.body;
    const { click, cents } = (typeof body === 'object' && body !== null ? body : {}) as Record<
      string,
      unknown
    >; // any record reads as unknown values
    const transaction =
      typeof cents === 'number' && Number.isSafeInteger(cents)
        ? network.sale(text(click), cents, now())
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
  router.post('/console/postback', form, (request, response) => {
    const body = request.body as Record<string, unknown>; // urlencoded gives a record
    network.setPostback(accounts[0], text(body['deal']), text(body['url']).trim());
    response.redirect(303, '/console');
  });
  router.post('/console/settle', form, (request, response) => {
    const body = request.body as Record<string, unknown>; // as above
    const state = states.find((s) => s === body['state']);
    const transaction = state && network.settle(text(body['order']), state, now());
    if (transaction) onDelivery(sendPostbacks(network, transaction, now));
    response.redirect(303, '/console');
  });

  router.get('/report.csv', (request, response) => {
    const account = text(request.query['account']);
    response.attachment(`harrowmead-${account.replace(/[^\w-]/g, '')}.csv`).type('text/csv');
    response.send(reportOf(network, account));
  });
  return router;
};
