import fc from 'fast-check';
import type { Description } from './describedKind.ts';

const letters = (min: number, max: number) =>
  fc
    .array(fc.constantFrom(...'bcdfghjklmnpqrtvwxz'), { minLength: min, maxLength: max })
    .map((list) => list.join(''));
const digits = (min: number, max: number) =>
  fc.integer({ min: 10 ** (min - 1), max: 10 ** max - 1 }).map((number) => String(number));

/** Shapes of links, by what they name; `S` stands for the sub-ID slots in the query. */
const templates = (words: { account: string; offer: string; page: string }) => [
  `//{host}/t?${words.account}={account}&${words.offer}={offer}&S&${words.page}={page}`,
  `//{host}/c/{account}/{offer}?S&${words.page}={page}`,
  `//{host}/click-{account}-{offer}?S&${words.page}={page}`,
  `//{account}.{host}/go/{offer}?S&${words.page}={page}`,
  `//{host}/r?id={account}_{offer}&S&${words.page}={page}&end=`,
  `//{host}/l/{account}/{offer}/{page}?S`,
];

type Placeholder = Description['postback']['placeholders'][number];
const named = (
  value: Placeholder['value'],
  words: readonly string[],
  ...names: readonly string[]
): fc.Arbitrary<Placeholder> =>
  fc.record({ name: fc.constantFrom(...names), value: fc.constant(value), words: fc.constantFrom(...words) });

/** Values a network tells of besides the sub-ID, by names that are common (*common practice*). */
const drawnPlaceholders = fc.record({
  txn: named(
    'order',
    ['the order number', 'number of the conversion', 'the transaction ID'],
    'order_id',
    'oid',
    'tid',
    'transaction_id',
    'conversion_id',
    'lead_id',
  ),
  amount: named(
    'commission',
    ['your commission', 'the payout', 'what you earn'],
    'payout',
    'commission',
    'amount',
    'reward',
    'earnings',
  ),
  status: named('state', ['the status', 'state of the order'], 'status', 'state', 'st'),
  currency: named('currency', ['the currency', 'its currency'], 'currency', 'cur', 'currency_code'),
  at: fc.oneof(
    named('moment', ['when it happened', 'time of the order'], 'time', 'datetime', 'when'),
    named('unix', ['time of the order, unix'], 'ts', 'timestamp'),
  ),
  event: named('event', ['the event', 'name of the goal'], 'event', 'goal', 'action'),
});

/** What networks offer besides, and is none of ours (*common practice*). */
const others: readonly (readonly [name: string, words: string])[] = [
  ['sale_amount', 'the order value'],
  ['order_value', 'value of the basket'],
  ['click_id', 'our own number of the click'],
  ['aff_id', 'your account'],
  ['offer_id', 'number of the offer'],
  ['offer_name', 'name of the offer'],
  ['ip', 'address of the buyer'],
  ['country', 'country of the buyer'],
  ['user_agent', 'browser of the buyer'],
  ['click_time', 'time of the click'],
  ['goal_id', 'number of the goal'],
  ['rate', 'exchange rate'],
  ['payout_type', 'share or fixed sum'],
  ['advertiser_id', 'number of the merchant'],
  ['campaign_name', 'name of the campaign'],
  ['session_ip', 'address of the visitor'],
  ['random', 'a number by chance'],
  ['click_date', 'day of the click'],
  ['items', 'how many items'],
  ['coupon', 'coupon that was used'],
];

/** Columns of a report by headings that are common (*common practice*), and how its dates and amounts are written. */
const report = fc.record({
  delimiter: fc.constantFrom(',', ';', '\t', '|'),
  dates: fc.constantFrom(
    'dd.MM.yyyy HH:mm',
    'MM/dd/yyyy h:mm:ss a',
    'yyyy-MM-dd HH:mm:ss',
    "yyyy-MM-dd'T'HH:mm:ssXXX",
    'dd MMM yyyy HH:mm',
    'dd/MM/yyyy HH:mm',
  ),
  money: fc.constantFrom(
    { decimal: ',' as const, group: '.' as const, before: '', after: '' },
    { decimal: '.' as const, group: ',' as const, before: '', after: '' },
    { decimal: '.' as const, group: '' as const, before: '', after: '' },
    { decimal: ',' as const, group: '' as const, before: '', after: '' },
  ),
  headings: fc.record({
    order: fc.constantFrom('Order', 'Transaction ID', 'Order ID', 'Conversion'),
    moment: fc.constantFrom('Date', 'Created', 'Conversion date'),
    slot: fc.constantFrom('Sub ID', 'SubID', 'Click ref', 'Tracking'),
    commission: fc.constantFrom('Commission', 'Payout', 'Earnings', 'Reward'),
    state: fc.constantFrom('Status', 'State', 'Result'),
  }),
});

/** A network drawn by chance: link shape, slots and lengths, placeholder style, words for states, report format. */
export const drawnNetwork: fc.Arbitrary<Description> = fc
  .record({
    word: letters(6, 9),
    shops: fc.uniqueArray(letters(6, 9), { minLength: 2, maxLength: 2 }),
    currency: fc.constantFrom('EUR', 'USD', 'GBP', 'CHF', 'SEK'),
    zone: fc.constantFrom('UTC', 'Europe/Berlin', 'America/Los_Angeles', 'Asia/Tokyo', 'Australia/Adelaide'),
    account: fc.oneof(
      digits(4, 6),
      letters(5, 8),
      fc.tuple(letters(2, 2), digits(3, 4)).map((p) => p.join('')),
    ),
    codes: fc.uniqueArray(digits(3, 5), { minLength: 2, maxLength: 2 }),
    pays: fc.array(
      fc.oneof(
        fc.integer({ min: 1, max: 20 }).map((percent) => ({ percent })),
        fc.integer({ min: 100, max: 9000 }).map((fixed) => ({ fixed })),
      ),
      { minLength: 2, maxLength: 2 },
    ),
    names: fc.record({
      account: fc.constantFrom('aff', 'pub', 'affid', 'partner'),
      offer: fc.constantFrom('offer', 'oid', 'camp', 'mid', 'program'),
      page: fc.constantFrom('u', 'url', 'to', 'dl', 'page'),
    }),
    shape: fc.nat({ max: 5 }),
    form: fc.constantFrom('percent', 'twice', 'form', 'base64url'),
    slots: fc.uniqueArray(fc.constantFrom('sub1', 'sub2', 'sid', 'subid', 's1', 's2', 'clickref', 'u1'), {
      minLength: 1,
      maxLength: 3,
    }),
    keeps: fc.constantFrom(14, 20, 26, 32, 50, 100),
    states: fc.constantFrom(
      ['pending', 'approved', 'rejected', 'paid'],
      ['open', 'confirmed', 'cancelled', 'settled'],
      ['new', 'ok', 'void', 'done'],
      ['wartend', 'gebucht', 'storniert', 'ausgezahlt'],
      ['1', '2', '3', '4'],
    ),
    style: fc.constantFrom('{*}', '[*]', '[[*]]', '%*%', '#*#', '{{*}}', '${*}', '<*>'),
    via: fc.constantFrom('GET' as const, 'POST' as const),
    help: fc.constantFrom('address' as const, 'table' as const, 'sentences' as const),
    placeholders: drawnPlaceholders,
    others: fc.shuffledSubarray([...others], { maxLength: 5 }),
    othersFirst: fc.boolean(),
    without: fc.constantFrom('none', 'none', 'event', 'at', 'currency'),
    report,
  })
  .map((drawn): Description => {
    const [click = ''] = drawn.slots;
    const slotText = drawn.slots.map((name) => `${name}={${name}}`).join('&');
    const inPath = drawn.shape === 5;
    const placeholders = Object.entries(drawn.placeholders)
      .filter(([field]) => field !== drawn.without)
      .map(([, placeholder]) => placeholder);
    const besides = drawn.others.map(([name, words]) => ({ name, value: 'other' as const, words }));
    const { headings, money, ...written } = drawn.report;
    const [first = '', second = ''] = drawn.shops;
    const [firstCode = '', secondCode = ''] = drawn.codes;
    const [firstPays = { percent: 5 }, secondPays = { percent: 5 }] = drawn.pays;
    const [pending = '', approved = '', reversed = '', paid = ''] = drawn.states;
    return {
      id: drawn.word,
      name: drawn.word.charAt(0).toUpperCase() + drawn.word.slice(1),
      host: `go.${drawn.word}.localhost`,
      currency: drawn.currency,
      zone: drawn.zone,
      account: drawn.account,
      offers: [
        { code: firstCode, merchant: first, pays: firstPays },
        { code: secondCode, merchant: second, pays: secondPays },
      ],
      link: {
        template: (templates(drawn.names)[drawn.shape] ?? '').replace('S', () => slotText),
        // In the path a percent-encoded page would be cut at its slashes by many servers; base64url is what is used there.
        page: inPath ? 'base64url' : (drawn.form as Description['link']['page']), // one of the forms above
      },
      slots: drawn.slots.map((name) => ({ name, keeps: drawn.keeps })),
      states: { pending, approved, reversed, paid },
      order: `${drawn.word.slice(0, 2).toUpperCase()}-`,
      postback: {
        style: drawn.style,
        via: drawn.via,
        help: drawn.help,
        placeholders: [
          ...(drawn.othersFirst ? besides : []),
          ...drawn.slots.map((name, i) => ({
            name,
            value: `slot ${name}` as const,
            words: `your sub-ID ${i + 1}`,
          })),
          ...(drawn.othersFirst ? [] : besides),
          ...placeholders.filter(({ name }) => !(drawn.slots as readonly string[]).includes(name)),
        ],
      },
      report: {
        file: `${drawn.word}.csv`,
        ...written,
        ...money,
        columns: [
          { heading: headings.order, value: 'order' },
          { heading: headings.moment, value: 'moment' },
          { heading: headings.slot, value: `slot ${click}` },
          { heading: headings.commission, value: 'commission' },
          { heading: 'Currency', value: 'currency' },
          { heading: headings.state, value: 'state' },
        ],
      },
      shops: [
        {
          host: `${first}.localhost`,
          offer: firstCode,
          products: [
            { path: '/a/moon-map', name: 'Moon map', price: 3450 },
            { path: '/b/star?x=1&y=ä', name: 'Star wheel', price: 129_900 },
          ],
        },
        {
          host: `${second}.localhost`,
          offer: secondCode,
          products: [{ path: '/c', name: 'Lamp', price: 2000 }],
        },
      ],
    };
  });
