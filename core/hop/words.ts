import type { HopChoices } from '#core/catalogue';

/** What each redirect type means for a visitor, a browser and the counter, in one sentence (RFC 9110 §15.4). */
export const redirectMeaning: Readonly<Record<HopChoices['status'], string>> = {
  301: 'Permanent: browsers and search engines may remember the destination and skip this link later. Forms may arrive as plain visits.',
  302: 'Temporary: asked for anew each time. Forms may arrive as plain visits.',
  307: 'Temporary: asked for anew each time, so every click is counted. The way of asking stays as it was.',
  308: 'Permanent: browsers and search engines may remember the destination. The way of asking stays as it was.',
};

/** How a link hops, as a sentence: `307 temporary, not cached, referrer hidden.` */
export const describeHop = ({ status, cache, hideReferrer, pass }: HopChoices): string => {
  const permanent = status === 301 || status === 308;
  const parts = [
    `${status} ${permanent ? 'permanent' : 'temporary'}`,
    permanent && cache ? 'cached for a day: later clicks of the same browser are not seen' : 'not cached',
    hideReferrer ? 'referrer hidden' : 'the network learns the site, not the page',
  ];
  if (pass === 'all') parts.push('passes every parameter on');
  else if (pass !== 'none' && pass.length > 0) parts.push(`passes ${pass.join(', ')} on`);
  return `${parts.join(', ')}.`;
};
