/** What a transaction is compared by: trimmed, and in one case unless the network tells transactions apart by it. */
export const txnKey = (txn: string, caseMatters = false): string =>
  caseMatters ? txn.trim() : txn.trim().toLowerCase();
