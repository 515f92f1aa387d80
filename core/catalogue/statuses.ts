/** The states of a conversion, in the order in which they usually come. */
export const statuses = ['pending', 'approved', 'paid', 'reversed'] as const;
export type Status = (typeof statuses)[number];
