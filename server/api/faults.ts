import type { Problem } from '#core/catalogue';
import type { LinkTable } from '../feed/index.ts';
import { readyLink } from '../feed/index.ts';

/** Links that are made ready between two looks at whoever else waits. */
const slice = 500;
/** Most faults that are given. */
const most = 200;

/** A link of which a part cannot be used as it was kept, and what is wrong. */
export interface Fault {
  readonly link: string;
  readonly problems: readonly Problem[];
}

/** Makes every link ready that is not yet, a few at a time so that nobody waits for it, and gives those with faults. */
export const findFaults = async (table: LinkTable): Promise<Fault[]> => {
  let n = 0;
  for (const link of table.links.values()) {
    const domain = table.domains.get(link.domain);
    if (domain) readyLink(table, link, domain);
    if (++n % slice === 0) await new Promise((resolve) => setImmediate(resolve));
  }
  return [...table.faults].slice(0, most).map(([link, problems]) => ({ link, problems }));
};
