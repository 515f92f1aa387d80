import { afterEach, expect, it } from 'vitest';
import { mount } from '../testing/mount.ts';
import DayField from './DayField.vue';

let leave = () => {};
afterEach(() => leave());

// How a day is typed, key by key, is seen in Chromium (e2e/payments.test.ts).
it('shows a day as it is kept, and anew when its parent says another', async () => {
  const { byLabel, give, leave: close } = await mount(DayField, { modelValue: '2026-03-29', label: 'Day' });
  leave = close;
  expect(byLabel('Day').value).toBe('2026-03-29');
  await give({ modelValue: '2026-12-31' });
  expect(byLabel('Day').value).toBe('2026-12-31');
  await give({ modelValue: '' });
  expect(byLabel('Day').value).toBe('');
});
