import type { Html } from '../html.ts';
import { html } from '../html.ts';

/** A page of the person's own site, as it was published. */
export interface SitePage {
  readonly path: string;
  readonly title: string;
  readonly body: Html;
}

const marked = html`rel="sponsored nofollow noopener" target="_blank"
referrerpolicy="no-referrer-when-downgrade"`;
const said = html`<p>Some links on this page pay us if you buy. It costs you nothing.</p>`;

/**
 * The pages that were written before and carry links of ours, with what happens to such pages: a price that is old, marks that were
 * forgotten, an address that was mistyped, a shop's own address that earns nothing.
 *
 * @param linkDomain scheme, host and port of the link domain
 * @param shop those of a shop whose pages they lead to
 */
export const sitePages = (linkDomain: string, shop: string): readonly SitePage[] => {
  const link = (slug: string, words: string) => html`<a href="${linkDomain}/${slug}" ${marked}>${words}</a>`;
  return [
    {
      path: '/saturn-guide',
      title: 'Seeing the rings: what to buy first',
      body: html`${said}
        <p>
          The cheapest way past 150× is the ${link('saturn-kit~saturn-guide', 'Saturn eyepiece kit')}, €164.90
          at the time of writing.
        </p>
        <p>A ${link('dew-band~saturn-guide', 'dew heater band')} keeps the lens dry after midnight.</p>
        <p>
          On a steady night the <a href="${shop}/eyepieces/planet-10">planet eyepiece</a> shows more, and a
          ${link('red-lamp~saturn-guide', 'red torch')} saves your eyes.
        </p>`,
    },
    {
      path: '/moon-guide',
      title: 'The moon in a week',
      body: html`${said}
        <p>
          A full moon is bright enough to hurt:
          <a href="${linkDomain}/moon-filter~moon-guide">a filter</a> takes the glare away.
        </p>
        <p>
          Take pictures with ${link('camera~moon-guide', 'a camera for planets')}, and plan them with
          ${link('moon-calendar~moon-guide', 'a calendar of the moon')}.
        </p>`,
    },
    {
      path: '/gear-list',
      title: 'Everything we carry into the dark',
      body: html`${said}
        <ul>
          <li>${link('first-scope~gear-list', 'First telescope')}</li>
          <li>${link('binos~gear-list', 'Binoculars')}</li>
          <li>${link('red-lamp~gear-list', 'Red torch')}</li>
          <li>${link('power-tank~gear-list', 'Battery for a long night')}</li>
          <li>${link('star-maps~gear-list', 'Star maps')}</li>
          <li>${link('flask~gear-list', 'Flask that keeps until morning')}</li>
        </ul>`,
    },
    {
      path: '/open-night',
      title: 'Open star night',
      body: html`<p>We open the garden on every clear Friday. Bring a coat; we bring the telescopes.</p>`,
    },
  ];
};
