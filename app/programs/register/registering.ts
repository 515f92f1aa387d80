import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import type { Role } from '#core/catalogue';

/** The links a network is being registered from, and what a person said of their parts. It stays while one looks elsewhere. */
export const useRegistering = defineStore('registering', () => {
  /** As they were pasted, one a line. */
  const text = ref('');
  const roles = shallowRef<ReadonlyMap<string, Role>>(new Map());

  /** Begins anew with some links; with the very same ones what was said stays. */
  const begin = (links: readonly string[]): void => {
    const next = links.join('\n');
    if (next === text.value) return;
    text.value = next;
    roles.value = new Map();
  };
  const say = (part: string, role: Role): void => {
    roles.value = new Map([...roles.value, [part, role]]);
  };
  const done = (): void => begin([]);
  return { begin, done, roles, say, text };
});
