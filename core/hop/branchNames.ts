/** The name of the branch that serves when no other fits. */
export const everyoneElse = 'everyone';

/** The branches of a link that does not lead to its offer at the moment: not open yet, closed, archived. */
export const notRedirectedBranches = ['before', 'after', 'gone'] as const;

/** The branch of a request that another server answered and its access log tells of: where that led is not known. */
export const fromLog = 'log';
