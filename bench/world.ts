import { clickId } from '#core/hop';
import type { HopRecord } from '#core/visits';

/** A reproducible source of numbers from 0 up to 1 (a linear congruential one is enough to spread things). */
const chance = (seed: number) => () => (seed = (Math.imul(seed, 1_664_525) + 1_013_904_223) >>> 0) / 2 ** 32;

const agents = Array.from(
  { length: 400 },
  (_, i) =>
    `Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/${100 + (i % 45)}.0.${i}.0 Safari/537.36`,
);
const robots = ['Mozilla/5.0 (compatible; examplebot/2.1)', 'python-requests/2.32.3', ''];
export const links = Array.from({ length: 500 }, (_, i) => ({
  id: `lnk_n${i}`,
  network: `net_${i % 4}`,
  program: `prg_${i % 20}`,
}));
const sources = Array.from({ length: 60 }, (_, i) => (i === 0 ? '' : `source-${i}`));
const countries = ['DE', 'NL', 'GB', 'AT', 'CH', 'US', 'JP', 'BE', 'FR', 'PL'];

/** Requests spread over 90 days: people, who come again now and then, and a tenth machines. In the order of time. */
export const hops = function* (count: number, seed = 7): Generator<HopRecord> {
  const next = chance(seed);
  const start = Date.UTC(2026, 7, 25);
  const step = (90 * 86_400_000) / count;
  const bytes = new Uint8Array(10);
  const recent: { visitor: string; link: string }[] = [];
  for (let i = 0; i < count; i++) {
    const at = Math.floor(start + i * step + next() * step);
    for (let n = 0; n < 10; n++) bytes[n] = next() * 256;
    const again = recent.length > 0 && next() < 0.14 ? recent[Math.floor(next() * recent.length)] : undefined;
    const hex = () =>
      Math.floor(next() * 2 ** 32)
        .toString(16)
        .padStart(8, '0');
    const visitor = again?.visitor ?? hex() + hex();
    const link = again?.link ?? links[Math.floor(next() ** 2 * links.length)]?.id ?? '';
    if (!again) recent[i % 500] = { visitor, link };
    yield {
      seq: i + 1,
      kind: 'hop',
      at,
      click: clickId(at, bytes),
      link,
      version: 1 + Math.floor(i / 20_000),
      branch: 'everyone',
      source: sources[Math.floor(next() ** 2 * sources.length)] ?? '',
      status: 307,
      method: 'GET',
      host: 'see.nightledge.example',
      ua: (next() < 0.1 ? robots[Math.floor(next() * 3)] : agents[Math.floor(next() * agents.length)]) ?? '',
      visitor,
      country: countries[Math.floor(next() * countries.length)] ?? '',
      device: next() < 0.55 ? 'phone' : 'desktop',
      from: next() < 0.7 ? 'https://nightledge.example/' : '',
      query: '',
      lang: 'de-DE',
      prefetch: next() < 0.02,
      test: next() < 0.001,
    };
  }
};
