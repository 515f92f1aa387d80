import { createPinia } from 'pinia';
import type { Component } from 'vue';
import { createApp, h, nextTick, shallowRef } from 'vue';
import { vuetify } from '../theme/vuetify.ts';

// A page without a browser has nobody to share with.
Object.defineProperty(navigator, 'locks', {
  value: { request: (_name: string, work: () => unknown) => work() },
});

/** A part of a screen in a page of its own, with the look and the stores the application has. */
export const mount = async (component: Component, props: Record<string, unknown>) => {
  const given = shallowRef(props);
  const host = document.body.appendChild(document.createElement('div'));
  const app = createApp({ render: () => h(component, given.value) })
    .use(createPinia())
    .use(vuetify);
  app.mount(host);
  await nextTick();
  const byLabel = (label: string): HTMLInputElement => {
    const labels = [...host.querySelectorAll('label')];
    // A field whose label moves has it twice; one of the two names the field.
    const of = labels.find((one) => one.htmlFor !== '' && one.textContent.trim() === label)?.htmlFor;
    const found = host.querySelector<HTMLInputElement>(of ? `[id="${of}"]` : `[aria-label="${label}"]`);
    if (!found) throw new Error(`Nothing is labelled ${label}.`);
    return found;
  };
  return {
    host,
    /** Gives the part other properties, as its parent would. */
    give: async (more: Record<string, unknown>) => {
      given.value = { ...given.value, ...more };
      await nextTick();
    },
    byLabel,
    /** Types into a field, then leaves it. */
    type: async (label: string, text: string) => {
      const field = byLabel(label);
      field.focus();
      field.value = text;
      field.dispatchEvent(new Event('input', { bubbles: true }));
      await nextTick();
      field.dispatchEvent(new Event('change', { bubbles: true }));
      field.blur();
      await nextTick();
    },
    press: async (words: string) => {
      const found = [...host.querySelectorAll<HTMLElement>('button')].find(
        (one) => one.getAttribute('aria-label') === words || one.textContent.trim() === words,
      );
      if (!found) throw new Error(`There is no button ${words}.`);
      found.click();
      await nextTick();
    },
    leave: () => {
      app.unmount();
      host.remove();
    },
  };
};
