/** Stands for the nonce of a page that is only shown, not sent: each response has a fresh one. */
export const exampleNonce = 'fresh-each-time';
