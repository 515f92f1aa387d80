import type { Role } from '#core/catalogue';

/** What each role of a parameter is called on the screen. */
export const roleWords: Readonly<Record<Role, string>> = {
  account: 'Account',
  program: 'Program',
  creative: 'Creative',
  slot: 'Sub-ID slot',
  page: 'Page',
  other: 'Other',
};
