import type { ArticleRegister } from '#core/articles';
import type { Link } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { testDomain } from './records.ts';

/** What articles are read against where there are links and nothing else; their domain is anywhere on the web. */
export const registerOf = (links: readonly Link[]): ArticleRegister => ({
  domains: [newDomain(testDomain.id, 'see.nightledge.example', 'Europe/Berlin')],
  networks: [],
  programs: [],
  accounts: [],
  links,
  products: [],
  port: '',
  dead: new Map(),
  now: Date.UTC(2026, 10, 20),
});
