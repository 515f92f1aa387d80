import express from 'express';
import { html, pageOf } from '../html.ts';

/** Host of a page of the person's own, as it was written: nothing in it leads to a short link, until the script does. */
export const siteHost = 'nightledge.localhost';

/**
 * A page of the person's own site, with the script of its link domain under a strict policy.
 *
 * @param linkDomain scheme, host and port of the link domain
 * @param shop those of a shop whose pages it leads to
 */
export const siteRoutes = (linkDomain: string, shop: string): express.Router => {
  const router = express.Router();
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
            </form>`,
          html`<script src="${linkDomain}/place.js" data-source="first-night" defer></script>`,
        ),
      );
  });
  return router;
};
