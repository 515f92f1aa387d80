import { mdiLinkVariant, mdiScaleBalance, mdiShareVariantOutline, mdiTuneVariant } from '@mdi/js';

/** The views of the rail in their order; those of `foot` stand at its lower end. */
export const views = [
  { name: 'links', to: '/links', label: 'Links', icon: mdiLinkVariant, foot: false },
  { name: 'reconcile', to: '/reconcile', label: 'Reconcile', icon: mdiScaleBalance, foot: false },
  { name: 'programs', to: '/programs', label: 'Programs', icon: mdiShareVariantOutline, foot: true },
  { name: 'setup', to: '/setup', label: 'Setup', icon: mdiTuneVariant, foot: true },
] as const;
