import type { HopChoices } from './hopChoices.ts';
import type { Program, ProgramRules } from './network.ts';
import type { Domain } from './records.ts';

/** What holds where a merchant asked for nothing. */
export const noRules: ProgramRules = { cloak: true, name: '', ownLinks: false, mail: true, social: true };

/** One thing that a merchant or a domain does not allow, and why. */
export interface Restriction {
  /**
   * What may not be: `short` the short link itself, `tracking` the tracking link as it is, `frame` a frame around the shop, and where it may not stand.
   */
  readonly what: 'short' | 'tracking' | 'frame' | 'page' | 'mail' | 'social' | 'name';
  /** A plain sentence. */
  readonly because: string;
}

/** What a link is held to by the merchant it leads to and by the domain it stands on. */
export const restrictionsOf = (
  program: Pick<Program, 'name' | 'rules'> | undefined,
  domain: Pick<Domain, 'host' | 'mail' | 'social'>,
): Restriction[] => {
  const restrictions: Restriction[] = [];
  const rules = program?.rules ?? noRules;
  const name = program?.name ?? '';
  if (!rules.cloak) {
    restrictions.push({
      what: 'short',
      because: `${name} forbids cloaking, so the tracking link is placed as it is and its clicks are counted from the page.`,
    });
    restrictions.push({
      what: 'frame',
      because: `${name} forbids cloaking, and a frame hides whose page it is.`,
    });
    restrictions.push({
      what: 'page',
      because: `${name} forbids cloaking, so no page of ours may stand between.`,
    });
  }
  if (rules.ownLinks) {
    const because = `${name} allows only short links of its own. Paste the one it gave you as the destination.`;
    restrictions.push({ what: 'short', because }, { what: 'tracking', because });
  }
  if (rules.name !== '')
    restrictions.push({
      what: 'name',
      because: `${name} wants “${rules.name}” to be read in the linked text.`,
    });
  if (!rules.mail) restrictions.push({ what: 'mail', because: `${name} does not allow its links in mail.` });
  else if (!domain.mail)
    restrictions.push({ what: 'mail', because: `Links of ${domain.host} may not stand in mail.` });
  if (!rules.social)
    restrictions.push({ what: 'social', because: `${name} does not allow its links on social pages.` });
  else if (!domain.social)
    restrictions.push({ what: 'social', because: `Links of ${domain.host} may not stand on social pages.` });
  return restrictions;
};

/** A hop with whatever is not allowed taken out of it. */
export const allowedHop = (choices: HopChoices, restrictions: readonly Restriction[]): HopChoices => {
  const forbids = (what: Restriction['what']) => restrictions.some((h) => h.what === what);
  if (forbids('page') || (forbids('frame') && choices.page === 'frame'))
    return { ...choices, page: 'none', twice: false, wait: { ...choices.wait, seconds: 0 }, scripts: [] };
  return choices;
};
