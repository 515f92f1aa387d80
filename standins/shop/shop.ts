import express from 'express';
import { send } from '../localhost.ts';
import { html, pageOf, price } from '../html.ts';
import { csvFeed, xmlFeed } from './feed.ts';
import { pictureOf } from './picture.ts';
import type { Shop } from './shops.ts';

/** The network a shop reports its sales to, and the name under which it gets its click numbers. */
export interface ShopNetwork {
  readonly origin: string;
  readonly clickName: string;
}

/** A shop's pages. It keeps the network's click number in a cookie of its own and reports its sales. */
export const shopRoutes = (shop: Shop, { origin, clickName }: ShopNetwork): express.Router => {
  const { name, colour, products } = shop;
  const router = express.Router();
  const cookie = new RegExp(`(?:^|;\\s*)${clickName}=(\\w+)`);
  const clickIn = (header: string | undefined): string => cookie.exec(header ?? '')?.[1] ?? '';
  const nothing = (response: express.Response) =>
    response
      .status(404)
      .type('html')
      .send(pageOf(name, colour, html`<p>There is no such page.</p>`));

  router.get('/', (_request, response) => {
    response.type('html').send(
      pageOf(
        name,
        colour,
        html`<ul>
            ${products.map((product) => html`<li><a href="${product.path}">${product.name}</a></li>`)}
          </ul>
          <p>
            For partners: its products as <a href="/products.csv">CSV</a> and as
            <a href="/products.xml">XML</a>
          </p>`,
      ),
    );
  });

  // A page between product and order, as many shops have one; it carries the network's click number on.
  router.get('/order', (request, response) => {
    const product = products.find((p) => p.path === request.query['product']);
    if (!product) {
      nothing(response);
      return;
    }
    response.type('html').send(
      pageOf(
        'Your order',
        colour,
        html`<p>${product.name} · <strong>${price(product.price)}</strong></p>
          <form method="post" action="/order">
            <input type="hidden" name="product" value="${product.path}" />
            <input type="hidden" name="${clickName}" value="${clickIn(request.get('cookie'))}" />
            <button>Place order</button>
          </form>`,
      ),
    );
  });

  router.post('/order', express.urlencoded({ extended: false }), async (request, response) => {
    const body = request.body as Record<string, unknown>; // urlencoded gives a record
    const product = products.find((p) => p.path === body['product']);
    if (!product) {
      nothing(response);
      return;
    }
    const click = clickIn(request.get('cookie'));
    if (click !== '')
      // A shop does not keep a buyer waiting because a network is away.
      await send(
        `${origin}/sale`,
        { method: 'POST', headers: { 'Content-Type': 'application/json' } },
        JSON.stringify({ click, ...product.price, event: product.event }),
      ).catch(() => undefined);
    response
      .type('html')
      .send(pageOf(name, colour, html`<p id="thanks">Thank you. Your ${product.name} is on its way.</p>`));
  });

  const originOf = (request: express.Request) => `http://${request.get('host') ?? shop.host}`;
  router.get('/products.csv', (request, response) => {
    response.type('text/csv; charset=iso-8859-1').send(csvFeed(shop, originOf(request)));
  });
  router.get('/products.xml', (request, response) => {
    response.type('application/xml').send(xmlFeed(shop, originOf(request)));
  });

  const picture = pictureOf(colour);
  router.get('/picture.png', (_request, response) => {
    response.type('png').send(picture);
  });

  router.get('/{*path}', (request, response) => {
    const product = products.find((p) => p.path === request.path);
    if (!product) {
      nothing(response);
      return;
    }
    const number = request.query[clickName];
    if (typeof number === 'string' && /^\w+$/.test(number))
      response.cookie(clickName, number, { maxAge: 30 * 86_400_000, sameSite: 'lax' });
    response.type('html').send(
      pageOf(
        product.name,
        colour,
        html`<p>${name} · <strong>${price(product.price)}</strong></p>
          <form method="post" action="/order">
            <input type="hidden" name="product" value="${product.path}" />
            <button>Place order</button>
          </form>
          <p><a href="/order?product=${product.path}">See the order first</a></p>
          <p>
            <small>You came from <code id="referrer">${request.get('referer') ?? '(nowhere)'}</code></small>
          </p>`,
        html`<meta property="og:image" content="/picture.png" />`,
      ),
    );
  });
  return router;
};
