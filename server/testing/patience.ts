import { vi } from 'vitest';

/** For how long a test waits for what must come, where it does not say: a second is too short on a machine that does other work. */
const patientMs = 20_000;
const { waitFor } = vi;

vi.waitFor = (callback, options) =>
  waitFor(callback, {
    timeout: patientMs,
    ...(typeof options === 'number' ? { timeout: options } : options),
  });
