import { World } from './world.ts';

/** What went wrong in a schedule, with everything that happened before; undefined where nothing did. */
export const runSchedule = async (seed: number, steps = 40): Promise<string | undefined> => {
  const world = new World(seed);
  const wrong = async (law: string, found: readonly string[]): Promise<string> =>
    [
      `seed ${seed}: ${law}`,
      ...found.slice(0, 5),
      '',
      ...world.log,
      '',
      ...(await world.describe().catch(() => [])),
    ].join('\n');
  try {
    await world.open();
    for (let step = 0; step < steps; step++) await world.step();
    const before = await world.missing();
    if (before.length > 0) return await wrong('said to be saved, and nowhere', before);
    await world.calm();
    const differences = await world.differences();
    if (differences.length > 0) return await wrong('all is quiet, and they differ', differences);
    const after = await world.missing();
    if (after.length > 0) return await wrong('said to be saved, and nowhere once all was quiet', after);
    return undefined;
  } catch (error) {
    return await wrong('it failed', [
      error instanceof Error ? (error.stack ?? error.message) : String(error),
    ]);
  } finally {
    await world.close();
  }
};
