import { foldText } from '#core/catalogue';

/** What the heading of a column of money says of it. */
export type MoneyKind = 'commission' | 'order value' | 'fee' | 'rate' | 'amount';

/** What the heading of a column of dates says of it: the conversion's own, some date, or that of another thing. */
export type DateKind = 'conversion' | 'date' | 'other';

/** A heading as its words are looked for: small, without accents, with single spaces. */
const plain = (heading: string): string =>
  foldText(heading)
    .replace(/[^\p{Letter}\p{Number}%]+/gu, ' ')
    .trim();

/**
 * What columns of money are called in reports in English, German, French, Spanish, Italian and Dutch; *common practice*. The first
 * that fits holds: a commission rate is a rate, a network's commission is a fee, a commissionable amount is an order value.
 */
const moneyWords: readonly (readonly [MoneyKind, RegExp])[] = [
  [
    'rate',
    /%|\b(?:rate|percent(?:age|uale)?|pct|\w*satz|prozent|taux|pourcentage|porcentaje|tasa|tasso|aliquota|tarief)\b/,
  ],
  [
    'fee',
    /\b(?:fees?|override|vat|tax(?:es)?|shipping|discount|cpa cost|\w*gebuhr(?:en)?|netzwerk\w*|netwerk\w*|frais|mwst|tva|iva|btw|versand\w*|rabatt|remise|descuento|sconto|korting|kosten|costi?|costos?|costes?)\b|\b(?:network|merchant|advertiser|total) (?:commission|provision|cost|share|payout|spend)|\bcommission (?:du reseau|totale|annonceur)|\bcomision (?:de la red|total)|\bcommissione (?:del network|della rete|totale)/,
  ],
  [
    'order value',
    /commissionable|provisionsfahig|provisionspflichtig|commissionnable|comisionable|commissionabile|\bbase\b|bemessung/,
  ],
  [
    'commission',
    /commission|comision|commissie|\w*provision|payout|reward|earnings?\b|bounty|vergutung|verdienst|pramie|remuneration|\bgains?\b|ganancias?|guadagn|compens|vergoeding|\b(?:publisher|affiliate|partner|your|my) (?:share|revenue|amount|payment|cut|income)/,
  ],
  [
    'order value',
    /\b(?:sales?|orders?|cart|basket|items?|purchase|transaction|product|goods|checkout|booking|customer) (?:amount|value|total|price|revenue|sum|subtotal)\b|turnover|\bgross\b|\bgmv\b|\bsubtotal\b|\bbasket\b|umsatz|warenwert|warenkorb|bestellwert|auftragswert|einkaufswert|chiffre d affaires|\bpanier\b|\b(?:montant|valeur|total) (?:de )?(?:la )?(?:l )?(?:commande|vente|achat)|\b(?:importe|valor|total) (?:del? )?(?:la )?(?:pedido|venta|compra|cesta)|\bventas?\b|\b(?:importo|valore|totale) (?:del(?:l)? )?(?:ordine|vendita|acquisto|carrello)|fatturato|orderwaarde|orderbedrag|bestelwaarde|bestelbedrag|winkelmand|omzet|\b(?:price|preis|prix|precio|prezzo|prijs)\b|^sales?$/,
  ],
  [
    'amount',
    /\b(?:amount|revenue|value|total|sum|income|money|betrag|wert|summe|einnahmen|ertrag|montant|somme|revenus?|importe|valor|ingresos|suma|importo|valore|totale|ricavi|bedrag|waarde|totaal|inkomsten)\b/,
  ],
];

/** What is no money whatever else its heading says: numbers, names, states, days, currencies of something. */
const noMoney =
  /\b(?:ids?|no|nr|num|numbers?|nummer|numero|ref|reference|referenz|count|anzahl|cantidad|aantal|nombre|qty|quantity|menge|quantite|quantita|type|typ|tipo|status|state|stato|estado|etat|code|sku|ean|name|currency|wahrung|devise|moneda|valuta|date|datum|fecha|data|day|time|group|plan|model)\b/;

/** What a heading says of a column of money; undefined where it says nothing. */
export const moneyKind = (heading: string): MoneyKind | undefined => {
  const words = plain(heading);
  if (noMoney.test(words)) return undefined;
  return moneyWords.find(([, form]) => form.test(words))?.[0];
};

/** True for a heading that says its column is no money. */
export const isNoMoney = (heading: string): boolean => noMoney.test(plain(heading));

/** True for a heading that speaks of the person who places links: their commission, not everybody's. */
export const isOwnShare = (heading: string): boolean =>
  /\b(?:publisher|affiliate|partner|your|my|editeur|afiliado|editore|affiliato|uitgever)\b/.test(
    plain(heading),
  );

const otherDates =
  /klick|click|\bclic\b|visit|valid|approv|confirm|\bpaid\b|payment|payout|modif|updat|chang|\block|clos|cancel|revers|\bdue\b|report|import|geandert|aktualis|storn|bezahl|zahl|genehm|bestatig|paiement|\bpago\b|aprob|pagamento|approva|betaal|goedgekeurd|gewijzigd|klik/;
const ownDates =
  /sale|order|conversion|transaction|event|action|purchase|lead|booking|occur|verkauf|bestell|\bkauf|transaktion|ereignis|vente|commande|achat|venta|pedido|compra|transaccion|vendita|ordine|acquisto|transazione|verkoop|transactie|aankoop/;

/** True for a heading that speaks of a day or a time. */
export const speaksOfDate = (heading: string): boolean =>
  /date|\b(?:day|time|timestamp|when|at|created|datum|tag|zeit|zeitpunkt|uhrzeit|jour|heure|fecha|dia|hora|data|giorno|ora|dag|tijd)\b|datum$|zeit$/.test(
    plain(heading),
  );

/** What a heading says of a column of dates. */
export const dateKind = (heading: string): DateKind => {
  const words = plain(heading);
  if (otherDates.test(words)) return 'other';
  return ownDates.test(words) ? 'conversion' : 'date';
};
