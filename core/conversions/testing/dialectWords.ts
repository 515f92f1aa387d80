import type { Status } from '#core/catalogue';

/** Languages in which reports are written. */
export const languages = ['en', 'de', 'fr', 'es', 'it', 'nl'] as const;
export type Language = (typeof languages)[number];

/** What a column of a report can hold in the generator. */
export type Column =
  | 'txn'
  | 'date'
  | 'clickDate'
  | 'approvalDate'
  | 'program'
  | 'click'
  | 'status'
  | 'commission'
  | 'value'
  | 'rate'
  | 'fee'
  | 'currency'
  | 'time'
  | 'item'
  | 'coupon'
  | 'country';

/**
 * Headings as reports have them in each language, several for each column; *common practice*, written down without a look at
 * what the reader knows. What leaves it open which column is the commission stands among them as often as any other.
 */
export const headings: Readonly<Record<Language, Readonly<Record<Column, readonly string[]>>>> = {
  en: {
    txn: ['Order ID', 'Transaction ID', 'Sale ID', 'Conversion ID', 'order_id', 'OrderNo', 'Order reference'],
    date: [
      'Date',
      'Event date',
      'Transaction date',
      'Sale Date',
      'order_date',
      'Conversion time',
      'Created at',
    ],
    clickDate: ['Click date', 'Click time', 'click_date'],
    approvalDate: ['Validation date', 'Approved on', 'Last modified', 'Payment date'],
    program: ['Program', 'Advertiser', 'Merchant name', 'Campaign', 'Offer'],
    click: ['SubID', 'Click ref', 'sub_id', 'Sub ID 1', 'Tracking ID', 'Click ID'],
    status: ['Status', 'State', 'Transaction status', 'Commission status', 'Validation status'],
    commission: [
      'Commission',
      'Publisher commission',
      'Earnings',
      'Payout',
      'Your commission',
      'Commission amount',
      'commission_value',
      'Amount',
      'Affiliate commission',
      'Total earnings',
      'Partner payout',
      'Commission (net)',
      'Your earnings',
      'commissionAmount',
      'Reward amount',
      'Commission earned',
    ],
    value: [
      'Order value',
      'Sale Amount',
      'Basket value',
      'Order total',
      'sale_amount',
      'Gross sales',
      'Turnover',
    ],
    rate: ['Commission rate', 'Rate', 'Commission %', 'Rate (%)'],
    fee: ['Network fee', 'Tracking fee', 'Network commission', 'VAT'],
    currency: ['Currency', 'Currency code', 'cur'],
    time: ['Time', 'Sale time', 'Hour'],
    item: ['Item', 'Product', 'SKU', 'Product name'],
    coupon: ['Coupon', 'Voucher code', 'Promo code'],
    country: ['Country', 'Device', 'Customer type'],
  },
  de: {
    txn: ['Bestellnummer', 'Auftragsnummer', 'Transaktions-ID', 'Order-ID', 'Transaktionsnummer'],
    date: ['Datum', 'Bestelldatum', 'Transaktionsdatum', 'Verkaufsdatum', 'Zeitpunkt'],
    clickDate: ['Klickdatum', 'Klickzeit', 'Datum des Klicks'],
    approvalDate: ['Bestätigt am', 'Datum der Freigabe', 'Änderungsdatum', 'Auszahlungsdatum'],
    program: ['Programm', 'Partnerprogramm', 'Händler', 'Advertiser', 'Kampagne'],
    click: ['SubID', 'Sub-ID', 'Klick-ID', 'Tracking-ID', 'Referenz'],
    status: ['Status', 'Zustand', 'Bearbeitungsstatus', 'Transaktionsstatus'],
    commission: [
      'Provision',
      'Vergütung',
      'Provisionsbetrag',
      'Ihre Provision',
      'Partnerprovision',
      'Verdienst',
      'Provision (netto)',
      'Betrag',
      'Affiliate-Provision',
      'Provision EUR',
      'Auszahlungsbetrag',
      'Ihre Vergütung',
      'Publisher-Vergütung',
      'Nettoprovision',
      'Ihr Verdienst',
      'Vergütungsbetrag',
      'Provision in EUR',
    ],
    value: ['Warenkorbwert', 'Bestellwert', 'Umsatz', 'Auftragswert', 'Warenwert', 'Nettowarenwert'],
    rate: ['Provisionssatz', 'Satz (%)', 'Prozent'],
    fee: ['Netzwerkgebühr', 'Gebühr', 'MwSt.', 'Netzwerkprovision'],
    currency: ['Währung', 'Währungscode'],
    time: ['Uhrzeit', 'Zeit'],
    item: ['Artikel', 'Produkt', 'Artikelnummer', 'Position'],
    coupon: ['Gutscheincode', 'Gutschein', 'Rabattcode'],
    country: ['Land', 'Gerät', 'Kundentyp'],
  },
  fr: {
    txn: [
      'N° de commande',
      'Numéro de commande',
      'ID transaction',
      'Référence commande',
      'Identifiant de transaction',
    ],
    date: ['Date', 'Date de vente', 'Date de la transaction', 'Date de commande'],
    clickDate: ['Date du clic', 'Date clic'],
    approvalDate: ['Date de validation', 'Date de paiement', 'Date de modification'],
    program: ['Programme', 'Annonceur', 'Campagne', 'Marchand'],
    click: ['SubID', 'ID de clic', 'Sub ID', 'ID clic'],
    status: ['Statut', 'État', 'Statut de la transaction'],
    commission: [
      'Commission',
      'Rémunération',
      'Gains',
      'Commission éditeur',
      'Montant de la commission',
      'Votre commission',
      'Montant',
      'Commission nette',
      'Commission (HT)',
      'Vos gains',
      'Gains éditeur',
      'Rémunération éditeur',
      'Commission due',
      'Total des gains',
      'Commission affilié',
      'Montant commission',
    ],
    value: [
      'Montant de la commande',
      'Valeur du panier',
      'Chiffre d’affaires',
      'Montant de la vente',
      'Panier',
    ],
    rate: ['Taux', 'Taux de commission', 'Pourcentage'],
    fee: ['Frais', 'Frais de réseau', 'TVA', 'Commission du réseau'],
    currency: ['Devise', 'Monnaie'],
    time: ['Heure', 'Heure de vente'],
    item: ['Article', 'Produit', 'Ligne'],
    coupon: ['Code promo', 'Coupon', 'Bon de réduction'],
    country: ['Pays', 'Appareil', 'Type de client'],
  },
  es: {
    txn: ['Número de pedido', 'ID de transacción', 'Nº de pedido', 'ID de venta', 'Referencia del pedido'],
    date: ['Fecha', 'Fecha de venta', 'Fecha de la transacción', 'Fecha del pedido'],
    clickDate: ['Fecha del clic', 'Fecha de clic'],
    approvalDate: ['Fecha de aprobación', 'Fecha de pago', 'Fecha de validación'],
    program: ['Programa', 'Anunciante', 'Campaña', 'Comerciante'],
    click: ['SubID', 'ID de clic', 'Sub ID'],
    status: ['Estado', 'Estado de la transacción', 'Estado del pedido'],
    commission: [
      'Comisión',
      'Ganancias',
      'Comisión del afiliado',
      'Importe de la comisión',
      'Su comisión',
      'Importe',
      'Comisión neta',
      'Comisión (EUR)',
      'Sus ganancias',
      'Ganancia',
      'Comisión a pagar',
      'Comisión del editor',
      'Remuneración',
      'Comisión generada',
      'Importe comisión',
    ],
    value: [
      'Importe del pedido',
      'Valor de la venta',
      'Importe de la compra',
      'Valor del pedido',
      'Total del pedido',
    ],
    rate: ['Tasa', 'Porcentaje', 'Tasa de comisión'],
    fee: ['IVA', 'Comisión de la red', 'Tarifa de red'],
    currency: ['Moneda', 'Divisa'],
    time: ['Hora', 'Hora de venta'],
    item: ['Artículo', 'Producto', 'Línea'],
    coupon: ['Cupón', 'Código promocional', 'Código de cupón'],
    country: ['País', 'Dispositivo'],
  },
  it: {
    txn: ['Numero ordine', 'ID transazione', 'ID ordine', 'Numero d’ordine', 'Codice ordine'],
    date: ['Data', 'Data vendita', 'Data della transazione', 'Data ordine', 'Data dell’ordine'],
    clickDate: ['Data del clic', 'Data clic'],
    approvalDate: ['Data di approvazione', 'Data pagamento', 'Data di validazione'],
    program: ['Programma', 'Inserzionista', 'Campagna', 'Negozio'],
    click: ['SubID', 'ID clic', 'Sub ID'],
    status: ['Stato', 'Stato della transazione', 'Stato ordine'],
    commission: [
      'Commissione',
      'Provvigione',
      'Guadagno',
      'Commissione affiliato',
      'Importo commissione',
      'Compenso',
      'Importo',
      'Commissione netta',
      'Provvigione netta',
      'La tua commissione',
      'Guadagni',
      'Commissione editore',
      'Compenso affiliato',
      'Commissione (EUR)',
      'Provvigioni',
      'Commissioni maturate',
    ],
    value: ['Valore ordine', 'Importo dell’ordine', 'Totale ordine', 'Valore del carrello', 'Fatturato'],
    rate: ['Tasso', 'Percentuale', 'Aliquota'],
    fee: ['IVA', 'Costo di rete', 'Commissione della rete'],
    currency: ['Valuta', 'Moneta'],
    time: ['Ora', 'Orario'],
    item: ['Articolo', 'Prodotto', 'Riga'],
    coupon: ['Codice sconto', 'Codice promo', 'Buono'],
    country: ['Paese', 'Dispositivo'],
  },
  nl: {
    txn: ['Ordernummer', 'Bestelnummer', 'Transactie-ID', 'Order ID', 'Transactienummer'],
    date: ['Datum', 'Besteldatum', 'Transactiedatum', 'Verkoopdatum', 'Datum van verkoop'],
    clickDate: ['Klikdatum', 'Datum klik'],
    approvalDate: ['Datum goedgekeurd', 'Betaaldatum', 'Gewijzigd op'],
    program: ['Programma', 'Adverteerder', 'Campagne', 'Winkel'],
    click: ['SubID', 'Klik-ID', 'Sub-ID'],
    status: ['Status', 'Transactiestatus', 'Toestand'],
    commission: [
      'Commissie',
      'Vergoeding',
      'Jouw commissie',
      'Commissiebedrag',
      'Uitbetaling',
      'Bedrag',
      'Nettocommissie',
      'Commissie (EUR)',
      'Vergoeding publisher',
      'Jouw vergoeding',
      'Affiliatecommissie',
      'Verdiensten',
      'Commissie excl. btw',
      'Commissie netto',
      'Uw commissie',
    ],
    value: ['Orderwaarde', 'Bestelbedrag', 'Orderbedrag', 'Omzet', 'Winkelmandje'],
    rate: ['Tarief', 'Percentage', 'Commissiepercentage'],
    fee: ['Btw', 'Netwerkkosten', 'Netwerkcommissie'],
    currency: ['Valuta', 'Munteenheid'],
    time: ['Tijd', 'Tijdstip'],
    item: ['Artikel', 'Product', 'Regel'],
    coupon: ['Kortingscode', 'Couponcode', 'Actiecode'],
    country: ['Land', 'Apparaat'],
  },
};

type Words = Readonly<Record<Status, string>>;

/** Words for states in each language, in two ways that reports have; *common practice*. */
export const stateWords: Readonly<Record<Language, readonly [Words, Words]>> = {
  en: [
    { pending: 'Pending', approved: 'Approved', paid: 'Paid', reversed: 'Declined' },
    { pending: 'open', approved: 'confirmed', paid: 'settled', reversed: 'cancelled' },
  ],
  de: [
    { pending: 'Offen', approved: 'Bestätigt', paid: 'Ausgezahlt', reversed: 'Storniert' },
    { pending: 'Vorgemerkt', approved: 'Freigegeben', paid: 'Bezahlt', reversed: 'Abgelehnt' },
  ],
  fr: [
    { pending: 'En attente', approved: 'Validée', paid: 'Payée', reversed: 'Annulée' },
    { pending: 'En cours', approved: 'Confirmé', paid: 'Réglé', reversed: 'Refusé' },
  ],
  es: [
    { pending: 'Pendiente', approved: 'Aprobada', paid: 'Pagada', reversed: 'Cancelada' },
    { pending: 'En revisión', approved: 'Confirmado', paid: 'Liquidado', reversed: 'Rechazado' },
  ],
  it: [
    { pending: 'In attesa', approved: 'Approvato', paid: 'Pagato', reversed: 'Annullato' },
    { pending: 'In sospeso', approved: 'Confermata', paid: 'Liquidata', reversed: 'Respinta' },
  ],
  nl: [
    { pending: 'In behandeling', approved: 'Goedgekeurd', paid: 'Betaald', reversed: 'Afgewezen' },
    { pending: 'Openstaand', approved: 'Bevestigd', paid: 'Uitbetaald', reversed: 'Geannuleerd' },
  ],
};

/** The trade's own words, whatever the language, by what a network looks at. */
export const tradeStates: Readonly<
  Record<'tracking' | 'validating' | 'paying' | 'leads' | 'bookings' | 'capitals', Words>
> = {
  tracking: { pending: 'tracked', approved: 'validated', paid: 'Payment sent', reversed: 'Not eligible' },
  validating: { pending: 'extended', approved: 'locked', paid: 'paid out', reversed: 'void' },
  leads: { pending: 'In review', approved: 'Qualified', paid: 'Paid out', reversed: 'Denied' },
  bookings: { pending: 'Awaiting approval', approved: 'Verified', paid: 'Settled', reversed: 'Voided' },
  capitals: { pending: 'ON_HOLD', approved: 'APPROVED', paid: 'PAID_OUT', reversed: 'CHARGED_BACK' },
  paying: { pending: 'On hold', approved: 'payable', paid: 'settled', reversed: 'chargeback' },
};

/** A network's own, of which nobody can know the second. */
export const ownStates: Words = { pending: 'open', approved: 'stage 2', paid: 'paid', reversed: 'cancelled' };

/** Title lines, total words and notes in each language. */
export const aroundWords: Readonly<
  Record<Language, { readonly title: string; readonly total: string; readonly note: string }>
> = {
  en: { title: 'Transaction report', total: 'Total', note: 'All figures are provisional.' },
  de: { title: 'Transaktionsbericht', total: 'Summe', note: 'Alle Angaben ohne Gewähr.' },
  fr: { title: 'Rapport des transactions', total: 'Total', note: 'Données provisoires.' },
  es: { title: 'Informe de transacciones', total: 'Total', note: 'Datos provisionales.' },
  it: { title: 'Rapporto transazioni', total: 'Totale', note: 'Dati provvisori.' },
  nl: { title: 'Transactierapport', total: 'Totaal', note: 'Cijfers onder voorbehoud.' },
};
