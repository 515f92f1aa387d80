import type { ReportRole } from '#core/catalogue';
import { element, foldText } from '#core/catalogue';
import { currencyIn, knownCurrency } from '#core/values';

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
    /%|\b(?:rate|\w*percent(?:ages?|uale)?|pct|\w*(?<!um)satz|prozent|taux|pourcentage|porcentaje|tasa|tasso|aliquota|tarief)\b/,
  ],
  [
    'fee',
    /\b(?:fees?|override|vat|tax(?:es)?|shipping|discount|cpa cost|\w*gebuhr(?:en)?|netzwerk\w*|netwerk\w*|frais|mwst|tva|iva|btw|tarifa|versand\w*|rabatt|remise|descuento|sconto|korting|kosten|costi?|costos?|costes?)\b|\b(?:network|merchant|advertiser|total) (?:commission|provision|cost|share|payout|spend)|\bcommission (?:du reseau|totale|annonceur)|\bcomision (?:de la red|total)|\bcommissione (?:del network|della rete|totale)/,
  ],
  [
    'order value',
    /commissionable|provisionsfahig|provisionspflichtig|commissionnable|comisionable|commissionabile|\bbase\b|bemessung/,
  ],
  [
    'commission',
    /commission|comision|commissie|\w*provision|provvigion|payout|uitbetaling|auszahlung|reward|earnings?\b|bounty|vergutung|verdienst|pramie|remuneration|remunerac|remunerazion|\bgains?\b|ganancias?|guadagn|compens|vergoeding|\b(?:publisher|affiliate|partner|your|my) (?:share|revenue|amount|payment|cut|income)/,
  ],
  [
    'order value',
    /\b(?:sales?|orders?|cart|basket|items?|purchase|transaction|product|goods|checkout|booking|customer) (?:amount|value|total|price|revenue|sum|subtotal)\b|turnover|\bgross\b|\bgmv\b|\bsubtotal\b|\bbasket\b|umsatz|warenwert|warenkorb|bestellwert|auftragswert|einkaufswert|chiffre d affaires|\bpanier\b|\b(?:montant|valeur|total) (?:de )?(?:la )?(?:l )?(?:commande|vente|achat)|\b(?:importe|valor|total) (?:del? )?(?:la )?(?:pedido|venta|compra|cesta)|\bventas?\b|\b(?:importo|valore|totale) (?:del(?:l)? )?(?:ordine|vendita|acquisto|carrello)|fatturato|orderwaarde|orderbedrag|bestelwaarde|bestelbedrag|winkelmand|omzet|\b(?:price|preis|prix|precio|prezzo|prijs)\b|^sales?$/,
  ],
  [
    'amount',
    /\b(?:amount|revenue|value|total|sum|income|money|betrag|wert|summe|einnahmen|ertrag|montant|somme|revenus?|importe|valor|ingresos|suma|importo|valore|totale|ricavi|bedrag|waarde|totaal|inkomsten|opbrengst)\b/,
  ],
];

/** What is no money whatever else its heading says: numbers, names, states, days, currencies of something. */
const noMoney =
  /\b(?:ids?|no|nr|num|numbers?|numero|ref|reference|referenz|count|anzahl|cantidad|aantal|nombre|qty|quantity|menge|quantite|quantita|type|typ|tipo|state|stato|estado|etat|codice|codigo|sku|ean|name|currency|devise|moneda|valuta|date|fecha|data|day|time|uhrzeit|heure|hora|ora|orario|tijdstip|group|plan|model)\b|\b\w*(?:datum|nummer|status|zeit|tijd|code|wahrung|typ)\b/;
/** A tax that is said to be in an amount or not is no fee of its own. */
const withTax =
  /\b(?:excl?|incl?|exkl|inkl|excluding|including|without|with|before|after|ohne|mit|hors|sans|avec|sin|con|senza|zonder|met) (?:vat|tax|taxes|mwst|ust|tva|taxe|iva|btw)\b/;

/** What a heading says of a column of money; undefined where it says nothing. */
export const moneyKind = (heading: string): MoneyKind | undefined => {
  const words = plain(heading).replace(withTax, ' ');
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
  /klick|click|\bclic\b|visit|valid|approv|confirm|\bpaid\b|payment|payout|modif|updat|chang|\block|clos|cancel|revers|\bdue\b|report|import|geandert|aktualis|storn|bezahl|zahl|genehm|bestatig|freigab|freigegeb|anderung|paiement|\bpago\b|aprob|pagamento|approva|betaal|goedgekeurd|gewijzigd|klik/;
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

/** Roles told by headings one by one; commission and date are told by all columns together. */
type NamedRole = Exclude<ReportRole, 'nothing' | 'amount' | 'at'>;

/** What a number by which something is known is called, after its name and before it. */
const idAfter =
  ' ?(?:ids?|no|nr|num|numbers?|ref|reference|code|key|nummer|numero|kennung|kennzeichen|identifier|identificador|referenz|referentie|referencia|riferimento|#)';
const idBefore =
  '(?:ids?|identifiant|identificador|identificativo|no|n|nr|numero|nummer|code|codigo|codice|reference|referenz|referentie|referencia|riferimento)(?: (?:de|di|du|del|dell|della|van|d))?(?: (?:la|le|l|il|el|het|de))?';
const deal =
  '(?:transactions?|txn|conversions?|actions?|event|transaktions?|transaccion|transazione|transactie|conversie|konversions?|conversione|aktions?)';
const order =
  '(?:orders?|sales?|leads?|bookings?|purchases?|bestell?(?:ung|ing)?s?|auftrags?|verkaufs?|buchungs?|commande|vente|reservation|pedido|venta|compra|ordine|vendita|acquisto|prenotazione|bestelling|verkoop|aankoop|boeking|order)';
/** A number of something: `order ID`, `bestellnummer`, `numéro de commande`. */
const numberOf = (thing: string): RegExp => new RegExp(`^(?:.* )?${thing}${idAfter}$|^${idBefore} ${thing}$`);

/**
 * What columns are called in reports in English, German, French, Spanish, Italian and Dutch, the most specific first for each
 * role; *common practice*. Looked for in the order given: what is called a state of a sale is a state.
 */
const roleForms: readonly (readonly [NamedRole, RegExp])[] = [
  [
    'clicks',
    /^(?:(?:number of|total|unique|anzahl|nombre de|numero de|numero di|aantal) )?(?:clicks?|visits?|hits?|klicks?|clics?|kliks?|visites?|visitas?|visite|bezoeken)$/,
  ],
  ['currency', /\b(?:currency|cur|devise|monnaie|moneda|moneta|divisa|valuta|munt\w*)\b|wahrung/],
  [
    'coupon',
    /\b(?:coupon|voucher|promo(?:tion)?|discount|gutschein|rabatt|code promo|cupon|buono|kortings?) ?(?:codes?|used|nr|nummer)?$|gutschein|kortingscode|actiecode|\bbon (?:de|d)\b|\b(?:cupon|coupon|voucher)\b|promo code|code promo|codigo promocional|codice (?:promo|sconto)/,
  ],
  [
    'time',
    /^(?:.* )?(?:time|hour|zeit|uhrzeit|heure|hora|ora|orario|tijd|tijdstip)$|^(?:uhrzeit|heure|hora|ora|tijd) (?:d|de|der|des|du|di|del|della|van)\b|uhrzeit$/,
  ],
  ['status', /^(?:status|state|statut|etat|estado|stato|zustand|toestand|result|outcome)$/],
  [
    'status',
    /^(?!.*(?:pay|paid|payout|invoice|zahl|auszahl|rechnung|paiement|facture|pago|factura|pagamento|fattura|betaal|factuur))(?:.*(?:status|statut\b|\betat\b|\bestado\b|\bstato\b|\bstate\b))/,
  ],
  ['status', /status|statut\b/],
  [
    'event',
    /^(?:kind|event|goal|type|what|ereignis|typ|art|evenement|tipo|evento|soort|gebeurtenis)$|^(?:action|event|conversion|transaction|commission|ereignis|transaktions?) ?(?:type|typ|kind|name|goal)$|^type (?:de|d) /,
  ],
  [
    'click',
    /\bclick ?(?:id|ref|reference)\b|klick ?id|id (?:du |de |di |del )?(?:clic|click|klik)\b|\bid (?:de )?clic/,
  ],
  ['click', /\bsub ?id|^ref ?\d?$|^k\d$|^tag$|^note$|^s\d$|\btracking|\bsub ?\d$|\bunter ?id/],
  ['txn', numberOf(deal)],
  ['txn', numberOf(order)],
  ['txn', new RegExp(`^(?:${deal}|${order}|ids?|reference|referenz|referencia|riferimento|referentie)$`)],
  [
    'program',
    /\b(?:program|programm|programme|programma|programa|merchant|advertiser|haendler|handler|werbetreibender|annonceur|anunciante|inserzionista|adverteerder|marchand|comerciante|commerciante)\b/,
  ],
  [
    'program',
    /program|campaign|kampagne|campagne|campana|campagna|\boffer\b|\bdeal\b|\bshop\b|\bstore\b|boutique|tienda|negozio|winkel/,
  ],
  ['label', /\b(?:label|link|source|placement|quelle|fuente|fonte|bron|etiquette|etiqueta|etichetta)\b/],
];

/** The role a heading names, and how specific it is: the smaller the rank, the more. Undefined where it names none. */
export const roleNamed = (
  heading: string,
): { readonly role: NamedRole; readonly rank: number } | undefined => {
  const words = plain(heading);
  const rank = roleForms.findIndex(([, form]) => form.test(words));
  return rank < 0 ? undefined : { role: element(roleForms[rank])[0], rank };
};

/** True for a heading that speaks of one item of an order. */
export const speaksOfItem = (heading: string): boolean =>
  /\b(?:items?|products?|skus?|eans?|articles?|articulos?|articoli|articolo|artikel\w*|positions?|posicion|posizione|positie|lines?|zeile|ligne|linea|regel|righ[ae]|riga|produkt\w*|produits?|productos?|prodott[oi])\b/.test(
    plain(heading),
  );

/** The currency a heading names, such as `Commission (USD)`; undefined where it names none that there is. */
export const currencyOfHeading = (heading: string, usual: string): string | undefined => {
  const found = currencyIn(heading, usual);
  return found !== undefined && knownCurrency(found) && !notCurrencies.has(found) ? found : undefined;
};
/** Codes of currencies that are words of headings too. */
const notCurrencies: ReadonlySet<string> = new Set(['ALL', 'TOP']);

/** True for a heading that says its amounts are whole numbers of cents, or what is a hundredth elsewhere. */
export const isInMinorUnits = (heading: string): boolean =>
  /\b(?:cents?|minor(?: units?)?|pence|centimes?|centesimi|centimos|centavos)\b/.test(plain(heading));
