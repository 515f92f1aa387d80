import { dequal } from 'dequal';
import type { Domain, Link, Marks } from '#core/catalogue';
import { addressOf, hopOf, marksOf } from '#core/catalogue';
import { describeHop } from './words.ts';

const describeMarks = (before: Marks, after: Marks): string[] => [
  ...(dequal(before.rel, after.rel)
    ? []
    : [after.rel.length === 0 ? 'No rel values.' : `rel="${after.rel.join(' ')}".`]),
  ...(before.newTab === after.newTab ? [] : [after.newTab ? 'Opens a new tab.' : 'Opens in the same tab.']),
  ...(before.title === after.title
    ? []
    : [after.title === '' ? 'No hover title.' : `Hover title “${after.title}”.`]),
];

/** What of a link goes by the clock of its domain's zone. */
const goesByZone = ({ hours, branches = [], destination }: Link): string[] => [
  ...(hours && hours.zone === undefined && (hours.from ?? hours.until) !== undefined
    ? ['its opening hours']
    : []),
  ...(branches.some(({ when }) => when.zone === undefined && (when.hours ?? when.weekdays ?? when.days))
    ? ['its split']
    : []),
  ...([destination, ...branches.map((branch) => branch.destination)].some((text) => text.includes('{day}'))
    ? ['its {day}']
    : []),
];

/**
 * What would be different of a link if its domain were another: its hop, marks, address, what goes by the domain's clock, and
 * what it says while it is closed. Plain sentences; none where nothing changes for it.
 */
export const changedByDomain = (link: Link, before: Domain, next: Domain): string[] => {
  const hop = hopOf(link, next);
  const byZone = before.zone === next.zone ? [] : goesByZone(link);
  const isOther = (when: 'before' | 'after', at: 'from' | 'until') =>
    link.hours?.[at] !== undefined && link.hours[when] === undefined && !dequal(before[when], next[when]);
  return [
    ...(dequal(hopOf(link, before), hop) ? [] : [describeHop(hop)]),
    ...describeMarks(marksOf(link, before), marksOf(link, next)),
    ...(addressOf(before, link) === addressOf(next, link)
      ? []
      : [`Stands at ${addressOf(next, link)}; its older address goes on answering.`]),
    ...(byZone.length === 0 ? [] : [`By the clock of ${next.zone}: ${byZone.join(', ')}.`]),
    ...(isOther('before', 'from') ? ['Other words before it opens.'] : []),
    ...(isOther('after', 'until') ? ['Other words after it closed.'] : []),
  ];
};
