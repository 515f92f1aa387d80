import express from 'express';
import { send } from '../localhost.ts';
import { html, pageOf } from '../page.ts';
import { pictureOf } from './picture.ts';

/** Something a shop sells; the price in euro cents. */
export interface Product {
  readonly path: string;
  readonly name: string;
  readonly cents: number;
}

/** A simulated shop and the offer it has at the network. */
export interface Shop {
  readonly name: string;
  readonly host: string;
  readonly deal: string;
  readonly colour: string;
  readonly products: readonly Product[];
}

export const shops: readonly Shop[] = [
  {
    name: 'Polehouse Optics',
    host: 'polehouse.localhost',
    deal: '2093',
    colour: '#234a76',
    products: [
      { path: '/kits/saturn', name: 'Saturn eyepiece kit', cents: 17_290 },
      { path: '/mounts/quiet-tracking', name: 'Quiet tracking mount', cents: 64_900 },
      { path: '/heaters/dew-band', name: 'Dew heater band', cents: 3490 },
      { path: '/eyepieces/wide-24', name: 'Wide 24 mm eyepiece', cents: 11_850 },
      { path: '/filters/moon', name: 'Moon filter', cents: 2400 },
    ],
  },
  {
    name: 'Cindermitt',
    host: 'cindermitt.localhost',
    deal: '2111',
    colour: '#8a3b1c',
    products: [
      { path: '/gloves/warm', name: 'Warm gloves that work a focuser', cents: 4200 },
      { path: '/chairs/observing', name: 'Observing chair', cents: 12_900 },
    ],
  },
];

const clickIn = (header: string | undefined): string =>
  /(?:^|;\s*)hmclick=(\w+)/.exec(header ?? '')?.[1] ?? '';

/** A shop's pages. It keeps the network's click number in a cookie of its own and reports its sales. */
export const shopRoutes = ({ name, colour, products }: Shop, network: string): express.Router => {
  const router = express.Router();
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
        </ul>`,
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
        html`<p>${product.name} · <strong>€${(product.cents / 100).toFixed(2)}</strong></p>
          <form method="post" action="/order">
            <input type="hidden" name="product" value="${product.path}" />
            <input type="hidden" name="hmclick" value="${clickIn(request.get('cookie'))}" />
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
        `${network}/sale`,
        { method: 'POST', headers: { 'Content-Type': 'application/json' } },
        JSON.stringify({ click, cents: product.cents }),
      ).catch(() => undefined);
    response
      .type('html')
      .send(pageOf(name, colour, html`<p id="thanks">Thank you. Your ${product.name} is on its way.</p>`));
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
    const { hmclick } = request.query;
    if (typeof hmclick === 'string' && /^\w+$/.test(hmclick))
      response.cookie('hmclick', hmclick, { maxAge: 30 * 86_400_000, sameSite: 'lax' });
    response.type('html').send(
      pageOf(
        product.name,
        colour,
        html`<p>${name} · <strong>€${(product.cents / 100).toFixed(2)}</strong></p>
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
