import {
  mdiChartTimelineVariant,
  mdiLinkVariant,
  mdiTextBoxOutline,
  mdiScaleBalance,
  mdiSignDirection,
  mdiShareVariantOutline,
  mdiTuneVariant,
} from '@mdi/js';

interface View {
  readonly name: string;
  readonly to: string;
  readonly label: string;
  readonly icon: string;
  readonly foot: boolean;
  readonly holds: readonly string[];
}

/** The views of the rail in their order, with the first parts of the addresses under each; those of `foot` stand at its lower end. */
export const views = [
  {
    name: 'links',
    to: '/links',
    label: 'Links',
    icon: mdiLinkVariant,
    foot: false,
    holds: ['links', 'paste', 'import', 'trace', 'waiting'],
  },
  {
    name: 'place',
    to: '/place/articles',
    label: 'Place',
    icon: mdiTextBoxOutline,
    foot: false,
    holds: ['place'],
  },
  {
    name: 'traffic',
    to: '/traffic',
    label: 'Traffic',
    icon: mdiChartTimelineVariant,
    foot: false,
    holds: ['traffic'],
  },
  {
    name: 'reconcile',
    to: '/reconcile',
    label: 'Reconcile',
    icon: mdiScaleBalance,
    foot: false,
    holds: ['reconcile', 'ledger', 'payments', 'claim', 'report'],
  },
  {
    name: 'decide',
    to: '/decide',
    label: 'Decide',
    icon: mdiSignDirection,
    foot: false,
    holds: ['decide'],
  },
  {
    name: 'programs',
    to: '/programs',
    label: 'Programs',
    icon: mdiShareVariantOutline,
    foot: true,
    holds: ['programs'],
  },
  { name: 'setup', to: '/setup', label: 'Setup', icon: mdiTuneVariant, foot: true, holds: ['setup'] },
] as const satisfies readonly View[];
