import { registerSW } from 'virtual:pwa-register';
import { ref } from 'vue';

/** A newer version of the application lies ready in this browser, and waits until it is let in. */
export const newerReady = ref(false);

let letIn: (() => Promise<void>) | undefined;

/** Has this browser keep the application's files, so that it opens without the server, and hear of a newer version. */
export const keepFiles = (): void => {
  letIn = registerSW({ onNeedRefresh: () => (newerReady.value = true) });
};

/** Loads the page anew with the newer version. */
export const renew = (): void => void letIn?.();
