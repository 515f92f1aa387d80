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
  /** A part of it was taken back later, as a negative amount of its own. */
  readonly refund?: {
    readonly at: number;
    readonly amount: number;
    /** Who tells of it. */
    readonly heard: boolean;
    readonly reported: boolean;
  };
  /** Its report lists it as items of one order, with these amounts. */
  readonly items?: readonly number[];
  /** A corrected report of its month lists it no longer. */
  readonly dropped?: true;
}

/** One thing that was planted, and what reconciling has to make of it. */
export interface Fault {
  readonly kind: CaseKind;
  readonly network: string;
  /** Transaction, also of a postback that could not be read; the day where clicks differ; `twice CLICK` for a postback without a transaction. */
  readonly key: string;
}
