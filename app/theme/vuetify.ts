import 'vuetify/styles/core';
import { mdiMenuDown } from '@mdi/js';
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg';
import { createVuetify } from 'vuetify';
import { VBtn } from 'vuetify/components/VBtn';
import { VTable } from 'vuetify/components/VTable';
import { themes } from './theme.ts';

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';

/** The look a person chose before, else what the system asks for. */
const chosen = (): 'light' | 'dark' => {
  const kept = localStorage.getItem('fernhop-theme');
  if (kept === 'light' || kept === 'dark') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
};

const field = { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' } as const;

export const vuetify = createVuetify({
  aliases: {
    TextLink: VBtn,
    SmallTable: VTable,
  },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: { defaultTheme: chosen(), themes, cspNonce: nonce },
  defaults: {
    VBtn: { variant: 'flat', size: 'small', ripple: false, class: 'leaf-button' },
    VTextField: field,
    VTextarea: field,
    VSelect: {
      ...field,
      menuIcon: mdiMenuDown,
      menuProps: { class: 'small-menu' },
      listProps: { density: 'compact' },
    },
    VCombobox: field,
    VAutocomplete: field,
    VFileInput: field,
    VDateInput: { ...field, prependIcon: '', hideDetails: true },
    VNumberInput: { ...field, controlVariant: 'hidden' },
    TextLink: { variant: 'text', active: false, ripple: false, class: 'text-link' },
    SmallTable: { density: 'compact', class: 'small-table' },
    VChip: { variant: 'outlined', label: true, size: 'small', class: 'leaf-chip' },
    VCheckboxBtn: { color: 'primary' },
    VCheckbox: { density: 'compact', hideDetails: 'auto', color: 'primary' },
    // Places that are kept, without movement: a shimmer draws for as long as a slow browser waits, and slows it down.
    VSkeletonLoader: { boilerplate: true },
    VHotkey: { variant: 'outlined', displayMode: 'text' },
    VTooltip: { openDelay: 400 },
    VBottomNavigation: { VBtn: { class: '', ripple: false } },
    VList: { VListItem: { ripple: false } },
  },
});
