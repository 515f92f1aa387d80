import type { Html } from '../html.ts';
import { html, pageOf, price } from '../html.ts';
import type { Kind, State, Transaction } from './kind.ts';
import { decimals } from './kind.ts';
import type { SimulatedNetwork, Sending } from './network.ts';

const time = (at: number): string => new Date(at).toISOString().slice(0, 19).replace('T', ' ');

/** A product of a merchant, as its network lists it. */
export interface Listed {
  readonly name: string;
  readonly page: string;
  readonly offer: string;
}

/** The tracking links an account may copy. */
export const linksPage = (kind: Kind, origin: string, products: readonly Listed[]): string =>
  pageOf(
    `${kind.name}: your tracking links`,
    kind.colour,
    html`<p>Account ${kind.accounts[0]}. Copy a link and publish it. <a href="/console">Console</a></p>
      <table>
        <tr>
          <th>Product</th>
          <th>Tracking link</th>
        </tr>
        ${products.map(
          ({ name, page, offer }) =>
            html`<tr>
              <td>${name}</td>
              <td><code>${kind.shape.link(origin, kind.accounts[0], offer, page)}</code></td>
            </tr>`,
        )}
      </table>`,
  );

const button = (action: string, fields: Readonly<Record<string, string>>, label: string): Html =>
  html`<form method="post" action="/console/${action}">
    ${Object.entries(fields).map(
      ([name, value]) => html`<input type="hidden" name="${name}" value="${value}" />`,
    )}<button>${label}</button>
  </form>`;

const stateLabels: readonly (readonly [State, string])[] = [
  ['approved', 'Approve'],
  ['reversed', 'Reverse'],
  ['paid', 'Pay'],
];

const actions = (t: Transaction): readonly Html[] => [
  ...stateLabels
    .filter(([state]) => state !== t.state)
    .map(([state, label]) => button('settle', { order: t.order, state }, label)),
  button('repeat', { order: t.order }, 'Send again'),
  html`<form method="post" action="/console/correct">
    <input type="hidden" name="order" value="${t.order}" />
    <input
      class="short"
      type="text"
      name="amount"
      aria-label="Commission of ${t.order}"
      value="${decimals(t.commission)}"
    /><button>Correct</button>
  </form>`,
];

const sendingWords: Readonly<Record<Sending, string>> = {
  on: 'They are sent as they should be.',
  late: 'They are kept back, to be sent late.',
  broken: 'Sending is broken: nobody is told, and nothing is sent later.',
};

/** The console: what the network counted, what was sold, whom it tells. */
export const consolePage = (network: SimulatedNetwork): string => {
  const { kind } = network;
  const [account] = kind.accounts;
  const places = [
    { code: '', merchant: 'All offers of the account' },
    ...kind.offers.filter(({ code }) => code !== ''),
  ];
  return pageOf(
    `${kind.name}: console`,
    kind.colour,
    html`<p>
        <a href="${kind.isOwnShop ? '/links' : '/'}">Tracking links</a> ·
        <a href="/report?account=${account}">Download report</a> or
        <a href="/report.xlsx?account=${account}">the same as a workbook</a>
      </p>
      <h2>Postback address</h2>
      <p>
        Placeholders:
        <code>${kind.placeholders.join(' ')}</code>
      </p>
      ${kind.help === undefined ? '' : html`<pre id="help">${kind.help}</pre>`}
      ${places.map(
        ({ code, merchant }) =>
          html`<form method="post" action="/console/postback">
            <input type="hidden" name="offer" value="${code}" />
            <p>
              <label
                >${merchant}<input
                  type="text"
                  name="url"
                  value="${network.postbacks[code === '' ? account : `${account}/${code}`] ?? ''}"
              /></label>
              <button>Set</button>
            </p>
          </form>`,
      )}
      <p>
        ${sendingWords[network.sending]}
        ${(
          [
            ['on', 'Send them'],
            ['late', 'Keep them back'],
            ['broken', 'Break the sending'],
          ] as const
        )
          .filter(([sending]) => sending !== network.sending)
          .map(([sending, label]) => button('sending', { sending }, label))}
      </p>
      <h2>Transactions</h2>
      <table>
        <tr>
          <th>Order</th>
          <th>Time (UTC)</th>
          <th>Click</th>
          <th>Event</th>
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
                <td>${t.event}</td>
                <td>${price(t.sale)}</td>
                <td>${price(t.commission)}</td>
                <td>${kind.words[t.state]}</td>
                <td>${actions(t)}</td>
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
          <th>Offer</th>
          ${kind.slots.map((name) => html`<th>${name}</th>`)}
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
                <td>${c.offer}</td>
                ${kind.slots.map((name) => html`<td><code>${c.slots[name] ?? ''}</code></td>`)}
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
                <td>${kind.words[d.state]}</td>
                <td>${d.attempt}</td>
                <td>${d.answer}</td>
                <td><code>${d.url}${d.body === '' ? '' : ` ${d.body}`}</code></td>
              </tr>`,
          )}
      </table>`,
  );
};
