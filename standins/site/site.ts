import express from 'express';
import { html, pageOf } from '../html.ts';
import { sitePages } from './pages.ts';

/** Host of the person's own site. */
export const siteHost = 'nightledge.localhost';

/**
 * The person's own site: a page in which nothing leads to a short link until the script of its link domain does, under a strict policy,
 * and pages that were published with short links in them.
 *
 * @param linkDomain scheme, host and port of the link domain
 * @param shop those of a shop whose pages it leads to
 */
export const siteRoutes = (linkDomain: string, shop: string): express.Router => {
  const router = express.Router();
  const pages = sitePages(linkDomain, shop);
  router.get('/', (_request, response) => {
    response
      .set(
        'Content-Security-Policy',
        `default-src 'none'; script-src 'self' ${linkDomain}; connect-src ${linkDomain}; style-src 'self' 'unsafe-inline'`,
      )
      .type('html')
      .send(
        pageOf(
          'A first night with Saturn',
          '#2C6A4C',
          html`<p>
              Some links on this page are affiliate links: if you buy through them, we are paid for it.
            </p>
            <p>
              Rings show at fifty times. The
              <a href="${shop}/kits/saturn?utm_source=notes">kit we use</a> does that from any balcony.
            </p>
            <h2>What else helps</h2>
            <p>
              A red head torch saves your eyes. Set it as dim as it goes, and give yourself twenty minutes in
              the dark before you judge what you see. The planet stands still and the air does not: wait for
              the second in which it sharpens, look again, and draw what you saw. Whoever draws sees more,
              night after night, than whoever only looks.
            </p>
            <pre>red head torch --dim</pre>
            <form>
              <label>Ask about a red head torch <input name="question" /></label>
            </form>
            <nav>
              ${pages.map(({ path, title }) => html`<a href="${path}">${title}</a> `)}
              <a href="/drafts/winter">Draft</a>
            </nav>`,
          html`<script src="${linkDomain}/place.js" data-source="first-night" defer></script>`,
        ),
      );
  });
  for (const { path, title, body } of pages)
    router.get(path, (_request, response) => {
      response.type('html').send(pageOf(title, '#2C6A4C', body));
    });
  router.get('/robots.txt', (request, response) => {
    response
      .type('text')
      .send(
        `User-agent: *\nDisallow: /drafts/\nSitemap: http://${request.headers.host ?? siteHost}/sitemap.xml\n`,
      );
  });
  router.get('/sitemap.xml', (request, response) => {
    const locations = ['/', ...pages.map(({ path }) => path)].map(
      (path) => html`<url><loc>http://${request.headers.host ?? siteHost}${path}</loc></url>`,
    );
    response
      .type('xml')
      .send(
        html`<?xml version="1.0" encoding="UTF-8"?><urlset xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"
            >${locations}</urlset
          >`.text,
      );
  });
  return router;
};
