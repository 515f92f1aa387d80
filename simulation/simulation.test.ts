import 'fake-indexeddb/auto';
import { expect, it } from 'vitest';
import { runSchedule } from './schedule.ts';

const schedules = Number(process.env['SCHEDULES'] ?? 1000);
const first = Number(process.env['SEED'] ?? 1);

it(
  `loses nothing and ends alike in ${schedules} schedules`,
  async () => {
    for (let seed = first; seed < first + schedules; seed++)
      expect(await runSchedule(seed), `SEED=${seed} SCHEDULES=1 replays it`).toBeUndefined();
  },
  Math.max(600_000, schedules * 1000),
);
