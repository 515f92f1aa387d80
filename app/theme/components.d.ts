import type { VBtn, VSelect, VTable, VTextField } from 'vuetify/components';

/** Our names of Vuetify's components in another dress; `vuetify.ts` says which. */
declare module 'vue' {
  interface GlobalComponents {
    TextLink: typeof VBtn;
    SmallField: typeof VTextField;
    SmallSelect: typeof VSelect;
    SmallTable: typeof VTable;
  }
}
