import type { VBtn, VTable } from 'vuetify/components';

/** Our names of Vuetify's components in another dress; `vuetify.ts` says which. */
declare module 'vue' {
  interface GlobalComponents {
    TextLink: typeof VBtn;
    SmallTable: typeof VTable;
  }
}
