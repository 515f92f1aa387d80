import 'vuetify/styles/core';
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg';
import { createVuetify } from 'vuetify';
import { themes } from './theme.ts';

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content ?? '';

/** The look a person chose before, else what the system asks for. */
const chosen = (): 'light' | 'dark' => {
  const kept = localStorage.getItem('fernhop-theme');
  if (kept === 'light' || kept === 'dark') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
};

export const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: { defaultTheme: chosen(), themes, cspNonce: nonce },
  defaults: {
    VBtn: { variant: 'flat', size: 'small', ripple: false, class: 'leaf-button' },
    VTextField: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VTextarea: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VSelect: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VCombobox: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VAutocomplete: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VFileInput: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VNumberInput: { variant: 'outlined', density: 'compact', hideDetails: 'auto', color: 'primary' },
    VChip: { variant: 'outlined', label: true, size: 'small', class: 'leaf-chip' },
    VCheckbox: { density: 'compact', hideDetails: 'auto', color: 'primary' },
    VTooltip: { openDelay: 400 },
  },
});
