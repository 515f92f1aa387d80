import { randomBytes } from 'node:crypto';
import type { Change, ChangesAnswer, Link, Settings, StoredChange } from '#core/catalogue';
import { branchDays } from '#core/catalogue';
import { clickId, dayIn, dayName, dayNumber } from '#core/hop';
import type { BranchGroup } from '#core/queries';
import { withMovedWeights } from '#core/queries';
import { parse } from 'devalue';
import type { TableLink } from './feed/index.ts';

export interface MovedWeightsParts {
  readonly links: ReadonlyMap<string, TableLink>;
  /** Zone of our own days. */
  readonly zone: () => string;
  readonly record: (id: string) => Promise<StoredChange | undefined>;
  readonly apply: (changes: readonly Change[]) => Promise<ChangesAnswer>;
  /** Answers a question as the `devalue` library writes it. */
  readonly ask: (name: string, args: readonly unknown[]) => Promise<string>;
  readonly log: (message: string, detail: object) => void;
  readonly now: () => number;
}

/** Who stands in the history of a link for changes that nobody made by hand. */
export const byItself = 'Fernhop';
/** What branches earned is looked at this often, in milliseconds. */
const everyMs = 60 * 60_000;

/** Moves the weights of one link to what its branches earned; true where something moved. */
const moveOne = async (
  { zone, record, apply, ask, now }: MovedWeightsParts,
  id: string,
  currency: string,
): Promise<boolean> => {
  const stored = await record(id);
  if (stored?.kind !== 'link' || !stored.value) return false;
  const link = stored.value as unknown as Link; // of the kind
  const to = dayIn(zone(), now());
  const from = dayName(dayNumber(to) - branchDays + 1);
  const groups = parse(
    await ask('whichBranch', [{ link: id, from, to, currency, now: now() }]),
  ) as BranchGroup[]; // as the question answers
  const moved = withMovedWeights(link, groups);
  if (!moved) return false;
  const { refused } = await apply([
    {
      change: clickId(now(), randomBytes(10)),
      ...{ kind: 'link', record: id, revision: stored.revision + 1, by: byItself, at: now() },
      value: { ...moved },
    },
  ]);
  // Somebody else was quicker: it is looked at again.
  return refused.length === 0;
};

/**
 * Moves the weights of links whose person wants it, each hour and when that is wanted anew.
 *
 * @returns `look` looks as soon as it can, `end` ends it
 */
export const startMovingWeights = (
  parts: MovedWeightsParts,
): { readonly look: () => void; readonly end: () => Promise<void> } => {
  let running: Promise<void> | undefined;
  let again = false;
  let ended = false;
  const all = async (): Promise<void> => {
    const ids = [...parts.links.values()]
      .filter(({ rare }) => rare.movesWeights && !rare.archived)
      .map(({ id }) => id);
    if (ids.length === 0) return;
    const settings = (await parts.record('settings'))?.value as unknown as Settings | undefined;
    for (const id of ids) {
      if (ended) return;
      try {
        if (await moveOne(parts, id, settings?.currency ?? 'EUR')) parts.log('moved weights', { link: id });
      } catch (error) {
        parts.log('weights could not be moved', { link: id, error: String(error) });
      }
    }
  };
  const look = (): void => {
    if (ended) return;
    again = true;
    running ??= (async () => {
      try {
        while (again && !ended) {
          again = false;
          await all();
        }
      } catch (error) {
        parts.log('weights could not be looked at', { error: String(error) });
      } finally {
        running = undefined;
      }
    })();
  };
  const timer = setInterval(look, everyMs).unref();
  return {
    look,
    end: async () => {
      ended = true;
      clearInterval(timer);
      await running;
    },
  };
};
