import type { Link } from '#core/catalogue';
import { useCatalogue } from '../data/catalogue.ts';
import { useEarnedBands } from '../data/earnedBands.ts';
import { figureDays, useJournal } from '../data/journal.ts';
import { useOwnDays } from '../data/ownDays.ts';
import type { Column } from '../data/tableLook.ts';
import { count, dayMonth, localMoment, moment, perClick, sums } from '../theme/formats.ts';
import { useLinkFacts } from './linkRows.ts';

/** What stands in a cell: one line, or two. */
interface Cell {
  readonly text: string;
  readonly under?: string;
}

/** A column of the list of links. */
export interface LinkColumn extends Column<Link> {
  /** Pixels. */
  readonly width: number;
  /** What it shows; where it is left out, the list draws the cell itself. */
  readonly cell?: (link: Link) => Cell;
  /** What the menu of columns calls it, where its heading is short. */
  readonly about?: string;
}

/** The column of the link itself, which is always there and takes the room that is left. */
export const slugColumn: Column<Link> = { name: 'link', title: 'Link', key: ({ slug }) => slug };

/** The columns the list shows until a person chooses others. */
export const usualColumns = ['goes', 'hop', 'days', 'visitors', 'conversions', 'epc'] as const;

/** Every column of the list of links beside the link itself, in the order in which they stand. */
export const useLinkColumns = (): readonly LinkColumn[] => {
  const catalogue = useCatalogue();
  const journal = useJournal();
  const facts = useLinkFacts();
  const { period } = useOwnDays();
  const earnedBand = useEarnedBands(() => ({
    ...{ by: 'link' as const, from: period.value[0], to: period.value[1], where: [] },
  }));
  /** While the journal arrives nothing is said of it: half of the figures would look like all. */
  const arriving: Cell = { text: '…' };
  const counted = (
    name: string,
    title: string,
    hint: string,
    of: (link: Link) => number,
    more: Partial<LinkColumn> = {},
  ): LinkColumn => ({
    name,
    title,
    hint,
    width: 78,
    number: true,
    downFirst: true,
    key: of,
    cell: (link) => (journal.arriving ? arriving : { text: count(of(link)) }),
    ...more,
  });
  const sumOf = (link: Link) => facts.figures(link)?.commission ?? [];
  /** Yours first, then the others by their code. */
  const currencyBand = (currency: string | undefined) =>
    currency === catalogue.settings.currency ? '' : (currency ?? '');
  const inState = (state: 'pending' | 'approved' | 'paid' | 'reversed') =>
    counted(
      state,
      state,
      `Conversions that are ${state}`,
      (link) => facts.figures(link)?.states[state] ?? 0,
      {
        about: `Conversions: ${state}`,
      },
    );
  const byCurrency = 'Of several currencies yours comes first; what is in two is not compared.';

  return [
    { name: 'goes', title: 'Goes to', width: 124, key: facts.goesTo },
    { name: 'hop', title: 'Hop', width: 108, number: true, key: facts.hop },
    {
      name: 'days',
      title: '14 days',
      hint: 'Visits day by day; sorted by their sum',
      width: 68,
      number: true,
      downFirst: true,
      key: (link) => facts.figures(link)?.days.reduce((sum, n) => sum + n, 0) ?? 0,
    },
    counted(
      'requests',
      'Requests',
      'Everything that asked for it, bots and repeats too',
      (link) => facts.figures(link)?.requests ?? 0,
    ),
    counted(
      // As it stands in what people chose to see.
      'visitors',
      'Visits',
      `People counted in ${figureDays} days, the same one once in half an hour`,
      (link) => facts.figures(link)?.counted ?? 0,
    ),
    counted(
      'repeats',
      'Repeats',
      'The same person again within half an hour',
      (link) => facts.figures(link)?.repeats ?? 0,
    ),
    counted('bots', 'Bots', 'Robots and machines', (link) => facts.figures(link)?.bots ?? 0),
    counted(
      'conversions',
      'Conv.',
      'Conversions, without reversed ones',
      (link) => facts.figures(link)?.conversions ?? 0,
      {
        about: 'Conversions',
        width: 62,
      },
    ),
    inState('pending'),
    inState('approved'),
    inState('paid'),
    inState('reversed'),
    {
      name: 'commission',
      title: 'Commission',
      hint: `What was not reversed. ${byCurrency}`,
      width: 112,
      number: true,
      downFirst: true,
      key: (link) => {
        const [first, ...others] = sumOf(link);
        return others.length > 0 ? undefined : first?.minor;
      },
      band: (link) => currencyBand(sumOf(link)[0]?.currency),
      cell: (link) => {
        if (journal.arriving) return arriving;
        const [first, ...others] = sumOf(link);
        if (!first) return { text: '—', under: 'no sales' };
        return { text: sums([first]), ...(others.length > 0 && { under: `+ ${sums(others)}` }) };
      },
    },
    {
      name: 'epc',
      title: 'EPC',
      hint: `Earnings per counted click so far; under it what a click earns at worst and at best once all has come. ${byCurrency}`,
      width: 90,
      number: true,
      downFirst: true,
      key: (link) => {
        const epc = facts.epc(link);
        return 'minor' in epc ? epc.minor : undefined;
      },
      band: (link) => {
        const epc = facts.epc(link);
        return currencyBand('minor' in epc ? epc.currency : undefined);
      },
      cell: (link) => {
        if (journal.arriving) return arriving;
        const epc = facts.epc(link);
        if (!('minor' in epc)) return { text: '—', under: epc.why };
        const under = earnedBand(link.id, facts.figures(link)?.counted ?? 0, epc.currency);
        return { text: perClick(epc.minor, epc.currency), ...(under && { under }) };
      },
    },
    {
      name: 'newest',
      title: 'Last click',
      hint: `The newest counted one of ${figureDays} days`,
      width: 124,
      downFirst: true,
      key: (link) => facts.figures(link)?.newest,
      cell: (link) => {
        if (journal.arriving) return arriving;
        const newest = facts.figures(link)?.newest;
        return newest === undefined
          ? { text: '—', under: `none in ${figureDays} days` }
          : { text: moment(newest) };
      },
    },
    {
      name: 'created',
      title: 'Created',
      width: 84,
      downFirst: true,
      key: ({ createdAt }) => createdAt,
      cell: ({ createdAt }) => ({ text: dayMonth(createdAt) }),
    },
    {
      name: 'group',
      title: 'Group',
      width: 110,
      key: ({ group }) => group,
      cell: ({ group }) => ({ text: group ?? '' }), // a link without a group has nothing here
    },
    {
      name: 'tags',
      title: 'Tags',
      width: 130,
      key: ({ tags }) => tags?.join(', '),
      cell: ({ tags }) => ({ text: tags?.join(', ') ?? '' }), // as with groups
    },
    {
      name: 'closes',
      title: 'Closes',
      about: 'When it closes',
      width: 150,
      key: ({ hours }) => hours?.until,
      cell: (link) => {
        const { until, zone } = link.hours ?? {};
        const domain = catalogue.domain(link.domain);
        return { text: until === undefined ? '' : localMoment(until, zone ?? domain?.zone ?? '') };
      },
    },
  ];
};
