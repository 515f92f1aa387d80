import { describe, expect, it } from 'vitest';
import type { Link } from '#core/catalogue';
import { newDomain, noRules, restrictionsOf } from '#core/catalogue';
import { placedUrl } from './placingOf.ts';

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const linkTo = (destination: string): Link => ({
  id: 'lnk_kit',
  domain: domain.id,
  slug: 'kit',
  aliases: [],
  title: 'Kit',
  destination,
  asText: [],
  hop: {},
  marks: {},
  notes: '',
  createdAt: 0,
});
const tracking = linkTo('https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1={click}');
const placed = (link: typeof tracking, rules = noRules) =>
  placedUrl(domain, link, restrictionsOf({ name: 'Polehouse', rules }, domain), [], '');

describe('what is placed of a link', () => {
  it('is the short link', () =>
    expect(placed(tracking)).toEqual({ address: 'https://see.nightledge.example/kit' }));

  it('is the tracking link with its slots empty where cloaking is forbidden', () =>
    expect(placed(tracking, { ...noRules, cloak: false })).toEqual({
      address: 'https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1=',
    }));

  it('is nothing where the merchant allows only short links of its own, until one of these is the destination', () => {
    const rules = { ...noRules, ownLinks: true };
    expect(placed(tracking, rules)).toEqual({
      refused: 'Polehouse allows only short links of its own. Paste the one it gave you as the destination.',
    });
    const own = linkTo('https://pole.example/x7k2');
    expect(placed(own, rules)).toEqual({ address: 'https://pole.example/x7k2' });
  });
});
