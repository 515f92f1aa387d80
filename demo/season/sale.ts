import type { CaseKind } from '#core/reconcile';

/** A conversion as it truly happened, and what each side says of it. */
export interface Sale {
  readonly network: string;
  readonly program: string;
  /** The click ID our server gave, whole. */
  readonly click: string;
  readonly clickAt: number;
  readonly event: string;
  readonly txn: string;
  readonly at: number;
  readonly currency: string;
  /** Minor units. */
  readonly amount: number;
  /** What the network's report says. */
  readonly report:
    | undefined
    | {
        readonly click: string;
        readonly amount: number;
        readonly currency: string;
        readonly state: 'pending' | 'approved' | 'reversed';
        readonly at: number;
      };
  /** What came by postback; the last state and amount we heard. */
  readonly heard:
    | undefined
    | { readonly at: number; readonly amount: number; readonly currency: string; readonly counts: boolean };
  /** The per-offer postback fired too, without a transaction. */
  readonly twice: boolean;
}

/** One thing that was planted, and what reconciling has to make of it. */
export interface Fault {
  readonly kind: CaseKind;
  readonly network: string;
  /** Transaction; the day where clicks differ; `twice CLICK` for a postback without a transaction. */
  readonly key: string;
}
