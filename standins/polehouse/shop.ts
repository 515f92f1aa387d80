import express from 'express';
import { send } from '../localhost.ts';
import { html, pageOf } from '../page.ts';

/** What the shop sells; prices in euro cents. */
export const products = [
  { path: '/kits/saturn', name: 'Saturn eyepiece kit', cents: 17_290 },
  { path: '/mounts/quiet-tracking', name: 'Quiet tracking mount', cents: 64_900 },
  { path: '/heaters/dew-band', name: 'Dew heater band', cents: 3490 },
  { path: '/eyepieces/wide-24', name: 'Wide 24 mm eyepiece', cents: 11_850 },
  { path: '/filters/moon', name: 'Moon filter', cents: 2400 },
] as const;

const colour = '#234a76';

const cookie = (header: string | undefined): string =>
  /(?:^|;\s*)hmclick=(\w+)/.exec(header ?? '')?.[1] ?? '';

/** The shop Polehouse Optics. It keeps the network's click number in a cookie of its own and reports its sales. */
export const shopRoutes = (network: string): express.Router => {
  const router = express.Router();

  router.get('/', (_request, response) => {
    response.type('html').send(
      pageOf(
        'Polehouse Optics',
        colour,
        html`<ul>
          ${products.map(({ path, name }) => html`<li><a href="${path}">${name}</a></li>`)}
        </ul>`,
      ),
    );
  });

  router.post('/order', express.urlencoded({ extended: false }), async (request, response) => {
    const body = request.body as Record<string, unknown>; // urlencoded gives a record
    const product = products.find((p) => p.path === body['product']);
    if (!product) {
      response
        .status(404)
        .type('html')
        .send(pageOf('Polehouse Optics', colour, html`<p>We do not sell this.</p>`));
      return;
    }
    const click = cookie(request.get('cookie'));
    if (click !== '')
      // A shop does not keep a buyer waiting because a network is away.
      await send(
        `${network}/sale`,
        { method: 'POST', headers: { 'Content-Type': 'application/json' } },
        JSON.stringify({ click, cents: product.cents }),
      ).catch(() => undefined);
    response
      .type('html')
      .send(
        pageOf(
          'Polehouse Optics',
          colour,
          html`<p id="thanks">Thank you. Your ${product.name} is on its way.</p>`,
        ),
      );
  });

  router.get('/{*path}', (request, response, next) => {
    const product = products.find((p) => p.path === request.path);
    if (!product) {
      next();
      return;
    }
    const { hmclick } = request.query;
    if (typeof hmclick === 'string' && /^\w+$/.test(hmclick))
      response.cookie('hmclick', hmclick, { maxAge: 30 * 86_400_000, sameSite: 'lax' });
    response.type('html').send(
      pageOf(
        product.name,
        colour,
        html`<p>Polehouse Optics · <strong>€${(product.cents / 100).toFixed(2)}</strong></p>
          <form method="post" action="/order">
            <input type="hidden" name="product" value="${product.path}" />
            <button>Place order</button>
          </form>
          <p>
            <small>You came from <code id="referrer">${request.get('referer') ?? '(nowhere)'}</code></small>
          </p>`,
      ),
    );
  });
  router.use((_request, response) => {
    response
      .status(404)
      .type('html')
      .send(pageOf('Polehouse Optics', colour, html`<p>There is no such page.</p>`));
  });
  return router;
};
