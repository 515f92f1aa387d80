import type { Html } from '../page.ts';
import { html, pageOf } from '../page.ts';
import type { Network, Transaction } from './network.ts';
import { accounts, offers } from './network.ts';
import { euros } from './postback.ts';

const colour = '#7a5c12';
const time = (at: number): string => new Date(at).toISOString().slice(0, 19).replace('T', ' ');

/** The tracking links an account may copy. */
export const linksPage = (
  origin: string,
  products: readonly { name: string; page: string; deal: string }[],
): string =>
  pageOf(
    'Harrowmead: your tracking links',
    colour,
    html`<p>Account ${accounts[0]}. Copy a link and publish it. <a href="/console">Console</a></p>
      <table>
        <tr>
          <th>Product</th>
          <th>Tracking link</th>
        </tr>
        ${products.map(
          ({ name, page, deal }) =>
            html`<tr>
              <td>${name}</td>
              <td>
                <code
                  >${origin}/r?by=${accounts[0]}&deal=${deal}&ref1=&ref2=&page=${encodeURIComponent(page)}</code
                >
              </td>
            </tr>`,
        )}
      </table>`,
  );

const settleButtons = (t: Transaction): readonly Html[] =>
  (
    [
      ['confirmed', 'Approve'],
      ['cancelled', 'Reverse'],
      ['settled', 'Pay'],
    ] as const
  )
    .filter(([state]) => state !== t.state)
    .map(
      ([state, label]) =>
        html`<form method="post" action="/console/settle">
          <input type="hidden" name="order" value="${t.order}" /><input
            type="hidden"
            name="state"
            value="${state}"
          />
          <button>${label}</button>
        </form>`,
    );

/** The console: what the network counted, what was sold, whom it tells. */
export const consolePage = (network: Network): string => {
  const account = accounts[0];
  return pageOf(
    'Harrowmead: console',
    colour,
    html`<p><a href="/">Tracking links</a> · <a href="/report.csv?account=${account}">Download report</a></p>
      <h2>Postback address</h2>
      <p>
        Placeholders:
        <code
          >[[ref1]] [[ref2]] [[kind]] [[state]] [[commission]] [[currency]] [[order]] [[deal]] [[when]]</code
        >
      </p>
      ${[{ deal: '', merchant: 'All offers of the account' }, ...offers].map(
        ({ deal, merchant }) =>
          html`<form method="post" action="/console/postback">
            <input type="hidden" name="deal" value="${deal}" />
            <p>
              <label
                >${merchant}<input
                  type="text"
                  name="url"
                  value="${network.postbacks[deal === '' ? account : `${account}/${deal}`] ?? ''}"
              /></label>
              <button>Set</button>
            </p>
          </form>`,
      )}
      <h2>Transactions</h2>
      <table>
        <tr>
          <th>Order</th>
          <th>Time (UTC)</th>
          <th>Click</th>
          <th>Sale</th>
          <th>Commission</th>
          <th>State</th>
          <th></th>
        </tr>
        ${network.transactions
          .toReversed()
          .slice(0, 200)
          .map(
            (t) =>
              html`<tr>
                <td>${t.order}</td>
                <td>${time(t.at)}</td>
                <td>${t.click}</td>
                <td>€${euros(t.saleCents)}</td>
                <td>€${euros(t.commissionCents)}</td>
                <td>${t.state}</td>
                <td>${settleButtons(t)}</td>
              </tr>`,
          )}
      </table>
      <h2>Clicks</h2>
      <p>${network.clicks.length} counted. The same visitor on the same offer counts once in ten minutes.</p>
      <table>
        <tr>
          <th>Click</th>
          <th>Time (UTC)</th>
          <th>Account</th>
          <th>Deal</th>
          <th>ref1</th>
          <th>ref2</th>
        </tr>
        ${network.clicks
          .toReversed()
          .slice(0, 200)
          .map(
            (c) =>
              html`<tr>
                <td>${c.number}</td>
                <td>${time(c.at)}</td>
                <td>${c.account}</td>
                <td>${c.deal}</td>
                <td><code>${c.ref1}</code></td>
                <td>${c.ref2}</td>
              </tr>`,
          )}
      </table>
      <h2>Postbacks sent</h2>
      <table>
        <tr>
          <th>Time (UTC)</th>
          <th>Order</th>
          <th>State</th>
          <th>Try</th>
          <th>Answer</th>
          <th>Address</th>
        </tr>
        ${network.deliveries
          .toReversed()
          .slice(0, 100)
          .map(
            (d) =>
              html`<tr>
                <td>${time(d.at)}</td>
                <td>${d.order}</td>
                <td>${d.state}</td>
                <td>${d.attempt}</td>
                <td>${d.answer}</td>
                <td><code>${d.url}</code></td>
              </tr>`,
          )}
      </table>`,
  );
};
