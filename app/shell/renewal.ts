import { registerSW } from 'virtual:pwa-register';
import { ref } from 'vue';

/** A newer version of the application lies ready in this browser, and waits until it is let in. */
export const newerReady = ref(false);

let letIn: (() => Promise<void>) | undefined;

/** Has this browser keep the application's files, so that it opens without the server, and hear of a newer version. */
export const keepFiles = (): void => {
  letIn = registerSW({ onNeedRefresh: () => (newerReady.value = true) });
};

/**
 * Loads the page anew with the newer version: once that has taken over, whoever let it in, and at once where it has already. The library
 * that registers it loads a page anew only if another version was in charge of it when it was opened.
 */
export const renew = async (): Promise<void> => {
  const registration = await navigator.serviceWorker.getRegistration();
  const waiting = registration?.waiting;
  if (!waiting) {
    location.reload();
    return;
  }
  waiting.addEventListener('statechange', () => {
    if (waiting.state === 'activated') location.reload();
  });
  await letIn?.();
};
