import type { Status } from '#core/catalogue';
import { foldText, statuses } from '#core/catalogue';

/**
 * What reports call a state in English, German, French, Spanish, Italian and Dutch; *common practice*. What may mean two
 * things, such as *closed* or *invoiced*, is not here: a person is asked.
 */
const words: Readonly<Record<Status, string>> = {
  pending:
    'open|new|hold|on hold|tracked|in review|under review|review|waiting|awaiting approval|unconfirmed|extended|delayed|processing|in process|in progress|provisional|initiated|' +
    'offen|neu|ausstehend|vorgemerkt|in prufung|in bearbeitung|wartend|unbestatigt|schwebend|' +
    'en attente|en cours|ouvert|ouverte|a valider|nouveau|nouvelle|' +
    'pendiente|en espera|abierto|abierta|nuevo|nueva|en revision|' +
    'in attesa|aperto|aperta|in sospeso|nuovo|nuova|in verifica|' +
    'in behandeling|openstaand|nieuw|in afwachting',
  approved:
    'confirmed|accepted|ok|locked|validated|valid|payable|cleared|verified|qualified|' +
    'bestatigt|freigegeben|genehmigt|akzeptiert|gultig|validiert|' +
    'approuve|approuvee|valide|validee|confirme|confirmee|accepte|acceptee|' +
    'aprobado|aprobada|confirmado|confirmada|aceptado|aceptada|validado|validada|' +
    'approvato|approvata|confermato|confermata|accettato|accettata|validato|validata|' +
    'goedgekeurd|bevestigd|geaccepteerd',
  paid:
    'paid out|settled|payment sent|bezahlt|ausgezahlt|ausbezahlt|beglichen|' +
    'paye|payee|regle|reglee|verse|versee|pagado|pagada|abonado|abonada|liquidado|liquidada|' +
    'pagato|pagata|liquidato|liquidata|saldato|saldata|betaald|uitbetaald',
  reversed:
    'cancelled|canceled|rejected|declined|void|voided|refunded|returned|denied|disapproved|chargeback|charged back|invalid|not eligible|ineligible|' +
    'storniert|storno|abgelehnt|ungultig|zuruckgewiesen|retourniert|' +
    'annule|annulee|refuse|refusee|rejete|rejetee|rembourse|remboursee|' +
    'cancelado|cancelada|rechazado|rechazada|anulado|anulada|devuelto|devuelta|reembolsado|reembolsada|denegado|denegada|' +
    'annullato|annullata|rifiutato|rifiutata|respinto|respinta|stornato|stornata|rimborsato|rimborsata|' +
    'geannuleerd|afgewezen|geweigerd|afgekeurd|teruggestuurd',
};

const meanings: ReadonlyMap<string, Status> = new Map(
  statuses.flatMap((status) => [status, ...words[status].split('|')].map((word) => [word, status] as const)),
);

/** A word as a network's profile keeps it. */
export const statusKey = (word: string): string => word.trim().toLowerCase().slice(0, 60);

/** What states said lately, since the same few words stand in every row. */
const lately = new Map<string, Status | undefined>();
const mostLately = 1000;

/** What a word for a state means; undefined where neither the network's own words nor the usual ones have it. */
export const statusOf = (word: string, own: Readonly<Record<string, Status>>): Status | undefined => {
  const key = statusKey(word);
  if (Object.hasOwn(own, key)) return own[key];
  if (!lately.has(key)) {
    if (lately.size >= mostLately) lately.clear();
    lately.set(
      key,
      meanings.get(
        foldText(key)
          .replace(/[^\p{Letter}\p{Number}]+/gu, ' ')
          .trim(),
      ),
    );
  }
  return lately.get(key);
};
