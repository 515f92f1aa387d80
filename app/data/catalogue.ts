import pLimit from 'p-limit';
import { defineStore } from 'pinia';
import { computed, ref, shallowReactive } from 'vue';
import type { UnknownTag } from '#core/link-parts';
import { unknownTagOf } from '#core/link-parts';
import type {
  Domain,
  FieldConflict,
  Link,
  Network,
  Program,
  RecordKind,
  RecordOf,
  Settings,
  Whose,
} from '#core/catalogue';
import { leaningProblem, pushTo, undoChange } from '#core/catalogue';
import type { AnyRecord } from '#core/formats';
import type { Edit, Finding, Row, ServerState, Waiting } from '../sync/index.ts';
import { isStuck, lock, makeRecordStore, makeSync, NotKept, storage } from '../sync/index.ts';
import { newChangeId } from './random.ts';
import { askAhead, key, syncServer } from './server.ts';
import type { Step, StepEdit } from './steps.ts';
import { makeSteps } from './steps.ts';

/** Where a record is: only in this browser, with the server too, refused by it, or changed by somebody else. */
export type Whereabouts = 'here' | 'live' | 'refused' | 'conflict';

/** A record to be saved, or the ID of one to be removed. */
export interface CatalogueChange {
  readonly kind: RecordKind;
  readonly value: { readonly id: string } | null;
  readonly id?: string;
  /** The record as it was when the person began to edit; what others changed since is then kept. */
  readonly began?: Row | undefined;
}

const retryMs = 2000;
const healthMs = 4000;

/** Kinds of records from which follows to whom a link belongs. */
const owning: ReadonlySet<RecordKind> = new Set(['link', 'network', 'program']);

/** What the person edits, as the screens show it; kept and sent by `app/sync`. */
export const useCatalogue = defineStore('catalogue', () => {
  const rows = shallowReactive(new Map<string, Row>());
  const waiting = shallowReactive(new Map<string, Waiting>());
  const loaded = ref(false);
  const server = ref<ServerState>('asking');
  /** What is wrong with the server, in its own words. */
  const serverProblem = ref('');
  /** Why this browser's database cannot be used, as a sentence; empty where it can. */
  const storageProblem = ref('');
  /** Why the newest save was not kept, as a sentence; empty where it was. */
  const notKept = ref('');
  /** What comparing with the server came to, newest last. */
  const findings = ref<Finding[]>([]);
  /** Another server answers than the one this browser is filled from; the person is asked. */
  const otherServer = ref(false);
  const by = ref(localStorage.getItem('fernhop-by') ?? '');
  const steps = makeSteps();
  /** Why the last step could not be undone or done again, or what of it, as a sentence. */
  const refusedUndo = ref('');

  /** Every record by its kind, in one pass over all of them. */
  const byKind = computed(() => {
    const found = new Map<RecordKind, object[]>();
    for (const { kind, value } of rows.values()) if (value) pushTo(found, kind, value);
    return found;
  });
  /** The records of a kind; the same list as before where none of them changed, so that nobody takes it for news. */
  const ofKind = <K extends RecordKind>(kind: K) =>
    computed((before?: RecordOf[K][]) => {
      // A row's value passed the schema of its kind before it was stored.
      const now = (byKind.value.get(kind) ?? []) as RecordOf[K][];
      return before?.length === now.length && before.every((record, i) => record === now[i]) ? before : now;
    });
  const domains = ofKind('domain');
  const networks = ofKind('network');
  const programs = ofKind('program');
  const accounts = ofKind('account');
  const links = ofKind('link');
  const reports = ofKind('report');
  const decisions = ofKind('decision');
  const months = ofKind('month');
  const payments = ofKind('payment');
  const rates = ofKind('rate');
  const costs = ofKind('cost');
  const choices = ofKind('choice');
  const promotions = ofKind('promotion');
  const products = ofKind('product');
  const pictures = ofKind('picture');
  const kits = ofKind('kit');
  const pages = ofKind('page');
  const sources = ofKind('source');
  const allSettings = ofKind('settings');
  const settings = computed((): Settings => allSettings.value[0] ?? { id: 'settings', currency: 'EUR' });

  /** Every record there is, for a file. */
  const everyRecord = (): AnyRecord[] =>
    // As above: a row's value is a record of its kind.
    [...rows.values()].flatMap(({ kind, value: held }) => (held ? [{ kind, value: held } as AnyRecord] : []));
  const value = (record: string | undefined): object | undefined =>
    (record === undefined ? undefined : rows.get(record)?.value) ?? undefined;
  // As above: what is stored under an ID of a kind is a record of that kind.
  const link = (id: string | undefined) => value(id) as Link | undefined;
  const domain = (id: string | undefined) => value(id) as Domain | undefined;
  const network = (id: string | undefined) => value(id) as Network | undefined;
  const program = (id: string | undefined) => value(id) as Program | undefined;

  const where = (record: string): Whereabouts => {
    const found = waiting.get(record);
    if (!found) return 'live';
    if (found.theirs) return 'conflict';
    return found.refusal ? 'refused' : 'here';
  };
  /** True for a record that a server has taken at least once. */
  const wasLive = (record: string): boolean => rows.get(record)?.stored !== undefined;
  /** The account tag for which a link stays here: nobody registered it, so nobody might be credited. */
  const unregisteredTag = (record: string): UnknownTag | undefined => {
    const found = rows.get(record);
    return found?.kind === 'link' && found.value && waiting.has(record)
      ? // As above: it passed the schema of its kind.
        unknownTagOf(found.value as Link, networks.value, programs.value, accounts.value)
      : undefined;
  };
  const waitingCount = computed(() => [...waiting.values()].filter((w) => !isStuck(w)).length);
  const stuck = computed(() => [...waiting.values()].filter(isStuck));

  const sync = makeSync({
    store: makeRecordStore({ storage, rows, waiting, channel: new BroadcastChannel('fernhop-catalogue') }),
    server: syncServer,
    lock,
    stays: (record) => unregisteredTag(record) !== undefined,
    changeId: newChangeId,
    now: Date.now,
    by: () => by.value,
    onState: (state, problem) => {
      server.value = state;
      serverProblem.value = problem;
    },
    onFinding: (finding) => findings.value.push(finding),
    onNotKept: (words) => (notKept.value = words),
  });

  /** Takes turns, so that each step knows what stood before it. */
  const inTurn = pLimit(1);
  /** Has something kept; where the browser does not keep it, the screen says so and the caller hears of it. */
  const keep = async (work: () => Promise<void>): Promise<void> => {
    try {
      await work();
      notKept.value = '';
    } catch (error) {
      if (error instanceof NotKept) notKept.value = error.message;
      throw error;
    }
  };

  /** Has edits kept as one; gives what they did, the last first. */
  const saveEdits = (edits: readonly Edit[]): Promise<StepEdit[]> =>
    inTurn(async () => {
      const before = edits.map(({ record }) => rows.get(record)?.value ?? null);
      await keep(() => sync.save(edits));
      return edits
        .map(({ kind, record }, i) => ({
          kind,
          record,
          before: before[i] ?? null,
          after: rows.get(record)?.value ?? null,
        }))
        .reverse();
    });

  /**
   * Saves records as one; all of them, or none.
   *
   * @returns what was done
   * @throws NotKept where this browser does not keep them
   */
  const saveAll = async (given: readonly CatalogueChange[]): Promise<Step> => {
    const changes = given.some(({ kind }) => owning.has(kind))
      ? await (
          await import('./derivedOwners.ts')
        ).withDerivedOwners(given, {
          rows,
          links: links.value,
          networks: networks.value,
          programs: programs.value,
        })
      : given;
    const id = newChangeId();
    const step = changes.length > 1 ? id : undefined;
    const edits = changes.map(({ kind, value: next, id, began }): Edit => {
      const record = next?.id ?? id;
      if (record === undefined) throw new Error('A removal names what it removes.');
      return { kind, record, value: next, step, began };
    });
    const done = { id, edits: await saveEdits(edits) };
    void sync.push();
    return done;
  };
  /**
   * Saves records as one step that can be undone as one; all of them, or none.
   *
   * @returns the ID of the step, by which it can be undone also when others came after it
   * @throws NotKept where this browser does not keep them
   */
  const save = async (...given: readonly CatalogueChange[]): Promise<string> => {
    const step = await saveAll(given);
    await steps.add(step);
    return step.id;
  };
  /** Saves what the program notes by itself, such as how the columns of a file were read: no step of the person's. */
  const note = async <K extends RecordKind>(kind: K, value: RecordOf[K]): Promise<void> =>
    noteAll([{ kind, value }]);
  /** The same for several at once. */
  const noteAll = async (changes: readonly CatalogueChange[]): Promise<void> => {
    if (changes.length > 0) await saveAll(changes);
  };
  /**
   * Saves one record.
   *
   * @returns the ID of the step
   * @param began the record as it was when the person began to edit; what others changed since is then kept
   */
  const saveRecord = <K extends RecordKind>(kind: K, next: RecordOf[K], began?: Row) =>
    save({ kind, value: next, began });
  /** A record as it stands now, for an edit that begins. */
  const rowNow = (record: string): Row | undefined => rows.get(record);

  /** Why a step cannot be reversed: something has come to rest on what it made. */
  const reversingProblem = ({ edits }: Step): string | undefined => {
    const gone = new Set(edits.flatMap(({ record, before }) => (before === null ? [record] : [])));
    const left = <T extends { readonly id: string }>(list: readonly T[]) =>
      list.filter(({ id }) => !gone.has(id));
    const leaning = {
      links: left(links.value),
      programs: left(programs.value),
      accounts: left(accounts.value),
    };
    // Thousands of links may be undone at once, and only those that were archived to another lean on one.
    const archived = { ...leaning, links: leaning.links.filter((each) => each.archived?.to !== undefined) };
    for (const { kind, record, before } of edits) {
      if (before !== null) continue;
      const leans = leaningProblem(kind, record, kind === 'link' ? archived : leaning);
      if (leans !== undefined) return leans;
    }
    return undefined;
  };

  /** One step is undone or done again after the other, however fast the keys come. */
  const reversing = pLimit(1);
  /** Undoes a step, or what undid it; gives false where that could not be, and `refusedUndo` says why. */
  const reverse = async (step: Step, doing: 'undone' | 'done again'): Promise<boolean> => {
    refusedUndo.value = '';
    const problem = reversingProblem(step);
    if (problem !== undefined) {
      refusedUndo.value = `This cannot be ${doing}. ${problem}`;
      return false;
    }
    const id = newChangeId();
    const stays = new Set<string>();
    const edits = step.edits.map(({ kind, record, before, after }): Edit => {
      const undone = undoChange(before, after, rows.get(record)?.value ?? null);
      for (const field of undone.stays) stays.add(field === '' ? 'what was changed since' : field);
      return { kind, record, value: undone.value, step: step.edits.length > 1 ? id : undefined };
    });
    await steps.reversed(step, { id, edits: await saveEdits(edits) });
    if (stays.size > 0)
      refusedUndo.value = `${doing === 'undone' ? 'Undone' : 'Done again'}, but for ${[...stays].join(', ')}: somebody changed that later, and theirs stays.`;
    void sync.push();
    return true;
  };
  /**
   * Undoes a step made in this window, also before it was loaded again; nothing that was done after it is touched.
   *
   * @param id the step; the last one where it is left out
   * @returns false where there is none, or it cannot be undone
   */
  const undo = (id?: string): Promise<boolean> =>
    reversing(async () => {
      const step = steps.undoable(id);
      return step !== undefined && (await reverse(step, 'undone'));
    });
  /** Does again what was undone last, as long as nothing new was done since; gives false where there is nothing. */
  const redo = (): Promise<boolean> =>
    reversing(async () => {
      const step = steps.redoable();
      return step !== undefined && (await reverse(step, 'done again'));
    });

  /** Settles a conflict field by field, and sends what comes of it. */
  const choose = async (record: string, whose: (conflict: FieldConflict) => Whose): Promise<void> => {
    await keep(() => sync.choose(record, whose));
    void sync.push();
  };
  /** Sends again what was refused. */
  const retry = async (record: string): Promise<void> => {
    await keep(() => sync.retry([record]));
    void sync.push();
  };
  /** Lets an edit go that the server refused. */
  const drop = (record: string): Promise<void> => keep(() => sync.drop(record));

  const look = async (): Promise<void> => {
    try {
      if (key.value === '') server.value = 'no key';
      else await sync.look();
      otherServer.value = sync.stranger() !== undefined;
    } finally {
      loaded.value = true;
      setTimeout(() => void look(), server.value === 'up' ? healthMs : retryMs);
    }
  };
  /** Answers what becomes of this browser's records at another server. */
  const answerOther = async (answer: 'bring mine' | 'take theirs'): Promise<void> => {
    await keep(() => sync.answerStranger(answer));
    // Records that are gone from here are not brought back by a key.
    if (answer === 'take theirs') await steps.clear();
    otherServer.value = sync.stranger() !== undefined;
    await sync.look();
  };

  /** Loads what this browser has and begins to keep in step with the server. */
  const start = async (): Promise<void> => {
    askAhead();
    const stepsAreRead = steps.load();
    try {
      await sync.load();
    } catch (error) {
      storageProblem.value = error instanceof Error ? error.message : String(error);
      throw error;
    }
    // An empty browser may be about to be filled: whether there is nothing, the server says.
    if (rows.size > 0) loaded.value = true;
    void look();
    await stepsAreRead;
  };

  const setBy = (name: string): void => {
    by.value = name.slice(0, 80);
    localStorage.setItem('fernhop-by', by.value);
  };

  return {
    accounts,
    answerOther,
    by,
    choose,
    choices,
    promotions,
    costs,
    decisions,
    domain,
    domains,
    drop,
    everyRecord,
    findings,
    link,
    kits,
    pages,
    links,
    loaded,
    months,
    network,
    networks,
    notKept,
    note,
    noteAll,
    otherServer,
    payments,
    pictures,
    products,
    program,
    programs,
    pull: sync.pull,
    rates,
    redo,
    refusedUndo,
    reports,
    retry,
    rowNow,
    rows,
    save,
    saveRecord,
    server,
    serverProblem,
    setBy,
    settings,
    sources,
    start,
    storageProblem,
    stuck,
    undo,
    unregisteredTag,
    waiting,
    waitingCount,
    wasLive,
    where,
  };
});
