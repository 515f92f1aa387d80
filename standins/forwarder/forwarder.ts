import { isLocalHost } from '#core/catalogue';
import express from 'express';
import { html, pageOf } from '../html.ts';

/** Host of a simulated service that sends links on, in each of the ways such services have, faults included. */
export const forwarderHost = 'via.larkmoor.localhost';

const target = (value: unknown): string | undefined =>
  typeof value === 'string' && URL.canParse(value) && isLocalHost(new URL(value).hostname)
    ? value
    : undefined;

/**
 * The forwarder's ways: `/pass` whole, `/drop` loses every parameter it does not know, `/refresh` and `/script` go by
 * a page, `/loop` comes back, `/gone` is a shop page that says it is sold out, `/framed` may not be framed.
 */
export const forwarderRoutes = (): express.Router => {
  const router = express.Router();
  const page = (title: string, body: ReturnType<typeof html>) => pageOf(title, '#5c4a7a', body);

  router.get('/pass', (request, response) => {
    const to = target(request.query['to']);
    if (to) response.redirect(302, to);
    else response.status(400).type('text').send('It leads nowhere.\n');
  });
  router.get('/drop', (request, response) => {
    const to = target(request.query['to']);
    if (!to) {
      response.status(400).type('text').send('It leads nowhere.\n');
      return;
    }
    const url = new URL(to);
    for (const name of [...url.searchParams.keys()]) if (/^ref/.test(name)) url.searchParams.delete(name);
    response.redirect(302, url.href);
  });
  router.get('/refresh', (request, response) => {
    const to = target(request.query['to']) ?? '/gone';
    response.type('html').send(
      page(
        'On your way',
        html`<meta http-equiv="refresh" content="0; URL='${to}'" />
          <p>One moment.</p>`,
      ),
    );
  });
  router.get('/script', (_request, response) => {
    response.type('html').send(
      page(
        'On your way',
        html`<script>
          window.location.href = '/gone';
        </script>`,
      ),
    );
  });
  router.get('/loop', (_request, response) => response.redirect(302, '/loop'));
  router.get('/gone', (_request, response) => {
    response.type('html').send(page('Sold out', html`<p>This product is no longer available.</p>`));
  });
  router.get('/framed', (_request, response) => {
    response
      .set('X-Frame-Options', 'SAMEORIGIN')
      .type('html')
      .send(page('Unframed', html`<p>Nobody frames this page.</p>`));
  });
  return router;
};
