import { isDeepStrictEqual } from 'node:util';
import type { FieldConflict, StoredChange, Whose } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { clickId } from '#core/hop';
import type { Row } from '../app/sync/index.ts';
import { conflictsOf, NotKept } from '../app/sync/index.ts';
import { changeOf } from '../server/client.ts';
import { Chance } from '../server/testing/chance.ts';
import { SimulatedBrowser } from './browser.ts';
import { Network } from './network.ts';
import { SimulatedServer } from './server.ts';
import { Tokens } from './tokens.ts';

const begin = Date.UTC(2026, 9, 1);
/** Fields of a link that people write into here; each holds one value of its own. */
const fields = ['title', 'notes', 'group'] as const;
/** What stands for a record that somebody removed. */
const removed = (record: string): string => `removed ${record}`;

const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');

const textAt = (value: object | null, field: string): string | undefined => {
  const found: unknown = Object.entries(value ?? {}).find(([name]) => name === field)?.[1];
  return typeof found === 'string' && found !== '' ? found : undefined;
};
const textsIn = (record: string, value: object | null): string[] =>
  value === null
    ? [removed(record)]
    : fields.flatMap((field) => {
        const text = textAt(value, field);
        return text === undefined ? [] : [text];
      });

interface Form {
  readonly browser: SimulatedBrowser;
  readonly life: number;
  readonly row: Row;
}

/**
 * A few people with a browser each, a server, and the way between them, all of it driven by draws that are the same for the
 * same seed.
 */
export class World {
  readonly #chance: Chance;
  readonly #server = new SimulatedServer();
  readonly #browsers: SimulatedBrowser[] = [];
  readonly #networks = new Map<SimulatedBrowser, Network>();
  readonly #tokens = new Tokens();
  readonly #backups: number[] = [];
  #forms: Form[] = [];
  #ids = 0;
  #links = 0;
  /** How deep in things that happen while something else is under way. */
  #depth = 0;
  #isCalm = false;
  readonly log: string[] = [];

  constructor(seed: number) {
    this.#chance = new Chance(seed);
  }

  /** A change ID: as good as random, and the same for the same seed. */
  #makeId = (): string => clickId(begin + (this.#ids += 1), new Uint8Array(10));

  async open(): Promise<void> {
    await this.#server.start();
    await this.#server.feed.apply([changeOf('domain', domain)]);
    const people = 2 + this.#chance.below(3);
    for (let n = 0; n < people; n++) await this.#newBrowser();
  }

  async #newBrowser(): Promise<SimulatedBrowser> {
    const year = 365 * 86_400_000;
    const clock = begin + (this.#chance.below(3) - 1) * year;
    const browser = new SimulatedBrowser(
      `P${this.#browsers.length}`,
      clock,
      (mine) => this.#networkOf(mine).server,
      this.#makeId,
    );
    this.#networks.set(
      browser,
      new Network({
        chance: this.#chance,
        api: this.#server.api,
        meanwhile: () => this.#meanwhile(browser),
        killed: () => void this.#kill(browser),
      }),
    );
    this.#browsers.push(browser);
    await browser.open();
    return browser;
  }

  #networkOf(browser: SimulatedBrowser): Network {
    const network = this.#networks.get(browser);
    if (!network) throw new Error('Every browser has a way to the server.');
    return network;
  }

  async close(): Promise<void> {
    for (const browser of this.#browsers) await browser.kill();
    await this.#server.remove();
  }

  #say(words: string): void {
    this.log.push(`${'  '.repeat(this.#depth)}${words}`);
  }

  /** Awaits what a browser does, unless the browser is killed meanwhile: then it never ends. */
  async #during(browser: SimulatedBrowser, work: () => Promise<void>): Promise<void> {
    const { life } = browser;
    const depth = this.#depth;
    let isOver = false;
    const over = work().finally(() => (isOver = true));
    while (!isOver) {
      // What happened while it waited goes on to its end.
      if (browser.life !== life && this.#depth === depth) return;
      await Promise.race([over, new Promise((resolve) => setImmediate(resolve))]);
    }
    await over;
  }

  async #kill(browser: SimulatedBrowser): Promise<void> {
    this.#say(`${browser.name} is killed`);
    await browser.kill();
  }

  /** Something that may happen while a browser waits for the server. */
  async #meanwhile(waiting: SimulatedBrowser): Promise<boolean> {
    if (this.#isCalm || this.#depth > 1 || this.#chance.below(4) > 0) return true;
    const { life } = waiting;
    this.#depth += 1;
    const others = this.#browsers.filter((browser) => browser !== waiting);
    if (this.#chance.below(2) === 0) await this.#edit(waiting);
    else await this.#act(this.#chance.one(others));
    this.#depth -= 1;
    return waiting.life === life;
  }

  /** Does one thing, chosen by chance. */
  async step(): Promise<void> {
    await this.#act(this.#chance.one(this.#browsers));
  }

  async #act(browser: SimulatedBrowser): Promise<void> {
    if (!browser.isOpen) {
      if (this.#isBusy(browser)) return;
      this.#say(`${browser.name} is opened`);
      await browser.open();
      return;
    }
    const n = this.#chance.below(100);
    if (n < 30) await this.#edit(browser);
    else if (n < 38) this.#openForm(browser);
    else if (n < 66) await this.#look(browser);
    else if (n < 74) await this.#settle(browser);
    else if (n < 78) await this.#kill(browser);
    else if (n < 80) await this.#clear(browser);
    else if (n < 84) this.#disk(browser);
    else if (n < 88) await this.#networkOf(browser).arrive();
    else if (n < 91) this.#networkOf(browser).isUp = !this.#networkOf(browser).isUp;
    else await this.#serverHappens();
  }

  readonly #looking = new Set<SimulatedBrowser>();
  #isBusy = (browser: SimulatedBrowser): boolean => this.#looking.has(browser);

  async #look(browser: SimulatedBrowser): Promise<void> {
    if (this.#isBusy(browser)) return;
    this.#say(`${browser.name} looks`);
    this.#looking.add(browser);
    try {
      await this.#during(browser, () => browser.sync.look());
    } catch (error) {
      if (!(error instanceof NotKept)) throw error;
    } finally {
      this.#looking.delete(browser);
    }
    if (browser.isOpen) this.#say(`${browser.name} is ${browser.state}`);
  }

  #disk(browser: SimulatedBrowser): void {
    browser.disk = this.#chance.one(['works', 'works', 'is full', 'dies before', 'dies after']);
    this.#say(`the disk of ${browser.name} ${browser.disk}`);
  }

  async #clear(browser: SimulatedBrowser): Promise<void> {
    if (this.#isBusy(browser) || browser.disk !== 'works') return;
    this.#say(`${browser.name}’s storage is cleared`);
    await browser.clearStorage();
    await this.#during(browser, () => browser.sync.save([]));
  }

  async #serverHappens(): Promise<void> {
    const n = this.#chance.below(10);
    if (n < 4) {
      this.#say('the server is started anew');
      await this.#server.restart();
    } else if (n < 7) {
      this.#backups.push(this.#server.backUp());
      this.#say(`backup ${this.#backups.length}`);
    } else if (n < 9 && this.#backups.length > 0) {
      const backup = this.#chance.one(this.#backups);
      this.#say(`backup ${backup} is put back`);
      await this.#server.restore(backup);
    } else if (n === 9 && this.#chance.below(3) === 0) {
      this.#say('the server is emptied');
      await this.#server.empty();
      this.#backups.length = 0;
      await this.#server.feed.apply([changeOf('domain', domain)]);
    }
  }

  #linksOf(browser: SimulatedBrowser): Row[] {
    return [...browser.rows.values()].filter(({ kind, value }) => kind === 'link' && value !== null);
  }

  #openForm(browser: SimulatedBrowser): void {
    const links = this.#linksOf(browser);
    if (links.length === 0) return;
    const row = this.#chance.one(links);
    this.#say(`${browser.name} opens ${row.record}`);
    this.#forms.push({ browser, life: browser.life, row });
  }

  /** A person makes a link, changes one or removes one: from a form that stood open, or at once. */
  async #edit(browser: SimulatedBrowser): Promise<void> {
    if (!browser.isOpen) return;
    this.#forms = this.#forms.filter((form) => form.browser.life === form.life);
    const forms = this.#forms.filter((form) => form.browser === browser);
    const links = this.#linksOf(browser);
    const n = this.#chance.below(10);
    if (n < 3 || links.length === 0) {
      await this.#make(browser);
      return;
    }
    const form = forms.length > 0 && n < 8 ? this.#chance.one(forms) : undefined;
    this.#forms = this.#forms.filter((other) => other !== form);
    const began = form?.row ?? this.#chance.one(links);
    const { record, value } = began;
    // What the same browser wrote into the same field in between, and has not sent yet, is its own to write over.
    const own = browser.waiting.get(record);
    if (n === 9) {
      const over = [...textsIn(record, value), ...(own ? textsIn(record, own.change.value) : [])];
      await this.#save(browser, began, null, [[removed(record), over]]);
      return;
    }
    const field = this.#chance.one(fields);
    const text = this.#tokens.make();
    const ownText = textAt(own?.change.value ?? null, field);
    const now = browser.rows.get(record);
    const ownRemoval = now?.value === null && (own !== undefined || now.stored === undefined);
    const over = [
      ...textsIn(record, { [field]: textAt(value, field) }),
      ...(ownRemoval ? [removed(record)] : []),
      ...(own && ownText !== undefined && ownText !== textAt(own.from ?? null, field) ? [ownText] : []),
    ];
    await this.#save(browser, began, { ...value, [field]: text }, [[text, over]]);
  }

  async #make(browser: SimulatedBrowser): Promise<void> {
    this.#links += 1;
    const title = this.#tokens.make();
    const record = `lnk_${this.#links}`;
    // Now and then two people choose the same slug.
    const slug = `s${this.#chance.below(4) === 0 ? this.#chance.below(3) : this.#links + 10}`;
    const link = {
      id: record,
      domain: domain.id,
      slug,
      aliases: [],
      title,
      destination: 'https://polehouse.example/kit',
      asText: [],
      hop: {},
      marks: {},
      notes: '',
      createdAt: begin,
    };
    await this.#save(browser, { record, kind: 'link', value: null }, link, [[title, []]]);
  }

  async #save(
    browser: SimulatedBrowser,
    began: Row,
    value: object | null,
    wrote: readonly (readonly [text: string, over: readonly string[]])[],
  ): Promise<void> {
    const { record, kind } = began;
    this.#say(
      `${browser.name} saves ${record}: ${wrote.map(([text, over]) => `${text} over ${over.join(', ')}`).join(', ')}`,
    );
    const isMerged = began.value !== null;
    const edit = { kind, record, value, ...(isMerged && { began }) };
    // Where it dies, nobody was told that it is saved; yet it may be.
    for (const [text, over] of wrote) for (const seen of over) this.#tokens.replace(text, seen);
    try {
      const { life } = browser;
      await this.#during(browser, () => browser.sync.save([edit]));
      if (browser.life !== life) return;
    } catch (error) {
      if (!(error instanceof NotKept)) throw error;
      this.#say('… it was not kept');
      return;
    }
    if (browser.disk === 'dies before' || browser.disk === 'dies after') return;
    for (const [text] of wrote) this.#tokens.save(text);
  }

  /** A person answers whatever is asked. */
  async #settle(browser: SimulatedBrowser, how?: Whose): Promise<boolean> {
    if (this.#isBusy(browser) || browser.disk !== 'works') return false;
    if (browser.sync.stranger()) {
      const answer = how === 'mine' || this.#chance.below(2) === 0 ? 'bring mine' : 'take theirs';
      this.#say(`${browser.name} answers the other server: ${answer}`);
      const before = [...browser.rows.values()].flatMap(({ record, value }) => textsIn(record, value));
      const waited = [...browser.waiting.values()].flatMap(({ theirs }) =>
        theirs ? textsIn(theirs.record, theirs.value) : [],
      );
      await this.#looksAt(browser, () => browser.sync.answerStranger(answer));
      if (browser.isOpen && !browser.sync.stranger() && answer === 'take theirs')
        for (const text of [...before, ...waited]) this.#tokens.letGo(text);
      return true;
    }
    const stuck = [...browser.waiting.values()].filter((w) => w.theirs ?? w.refusal);
    if (stuck.length === 0) return false;
    const { record, theirs, change } = this.#chance.one(stuck);
    if (theirs) {
      const chosen: [FieldConflict, Whose][] = [];
      const waiting = browser.waiting.get(record);
      const whose = (conflict: FieldConflict): Whose => {
        const choice = how ?? this.#chance.one(['mine', 'theirs'] as const);
        chosen.push([conflict, choice]);
        return choice;
      };
      this.#say(`${browser.name} chooses ${record}: ${conflictsOf(waiting ?? fail()).length} fields`);
      await this.#during(browser, () => browser.sync.choose(record, whose));
      for (const [conflict, choice] of chosen) this.#prefer(record, conflict, choice);
      return true;
    }
    this.#say(`${browser.name} lets ${record} go, which was refused`);
    for (const text of textsIn(record, change.value)) this.#tokens.letGo(text);
    await this.#during(browser, () => browser.sync.drop(record));
    return true;
  }

  /** What a person prefers replaces the other, as far as it was theirs to see. */
  #prefer(record: string, { path, mine, theirs }: FieldConflict, choice: Whose): void {
    const texts = (value: unknown): string[] =>
      path.length === 0
        ? textsIn(record, value as object | null) // the whole record
        : typeof value === 'string' && value !== ''
          ? [value]
          : [];
    const [won, lost] = choice === 'mine' ? [texts(mine), texts(theirs)] : [texts(theirs), texts(mine)];
    for (const text of lost) {
      if (won.length === 0) this.#tokens.letGo(text);
      for (const other of won) this.#tokens.replace(other, text);
    }
  }

  async #looksAt(browser: SimulatedBrowser, work: () => Promise<void>): Promise<void> {
    this.#looking.add(browser);
    try {
      await this.#during(browser, work);
    } catch (error) {
      // It is asked again: the server did not answer, or is yet another one.
      if (!(error instanceof Error)) throw error;
    } finally {
      this.#looking.delete(browser);
    }
  }

  /** Everything the server has. */
  async #atServer(): Promise<Map<string, StoredChange>> {
    const all = new Map<string, StoredChange>();
    for (let after = 0; ;) {
      const page = await this.#server.feed.read(after);
      for (const stored of page.changes) all.set(stored.record, stored);
      after = page.version;
      if (!page.more) return all;
    }
  }

  /** What was said to be saved and is nowhere. */
  async missing(): Promise<string[]> {
    const anywhere: string[] = [];
    const present = new Set<string>();
    const see = (record: string, value: object | null): void => {
      anywhere.push(...textsIn(record, value));
      if (value) present.add(record);
    };
    for (const { record, value } of (await this.#atServer()).values()) see(record, value);
    for (const browser of this.#browsers) {
      const wasOpen = browser.isOpen;
      if (!wasOpen) await browser.open();
      for (const { record, value } of browser.rows.values()) see(record, value);
      for (const { record, change, theirs } of browser.waiting.values()) {
        see(record, change.value);
        if (theirs) see(record, theirs.value);
      }
    }
    // Where nobody has a record any more, its removal holds.
    for (let n = 1; n <= this.#links; n++) if (!present.has(`lnk_${n}`)) anywhere.push(removed(`lnk_${n}`));
    return this.#tokens.missing(anywhere);
  }

  /** What everybody has, a line a record. */
  async describe(): Promise<string[]> {
    const texts = (record: string, value: object | null) => textsIn(record, value).join(' ');
    const lines = [...(await this.#atServer()).values()].map(
      ({ record, version, value }) => `server: ${record} ${version} ${texts(record, value)}`,
    );
    for (const { name, rows, waiting } of this.#browsers)
      for (const { record, value, stored } of rows.values()) {
        const w = waiting.get(record);
        const theirs = w?.theirs ? ` against ${texts(record, w.theirs.value)}` : '';
        const waits = w
          ? `; waits ${texts(record, w.change.value)} from ${w.from === undefined ? '?' : texts(record, w.from)}${theirs} ${w.refusal?.message ?? ''}`
          : '';
        lines.push(`${name}: ${record} ${stored?.version ?? '-'} ${texts(record, value)}${waits}`);
      }
    return lines;
  }

  /** Lets everybody get through to the server, and answers what is asked, until nothing moves any more. */
  async calm(): Promise<void> {
    this.log.push('— calm —');
    this.#isCalm = true;
    for (const browser of this.#browsers) {
      const network = this.#networkOf(browser);
      network.isUp = true;
      network.trouble = 0;
      if (!browser.isOpen) await browser.open();
      browser.disk = 'works';
    }
    for (let round = 0; round < 40; round++) {
      let moved = false;
      for (const browser of this.#browsers) {
        await this.#look(browser);
        while (await this.#settle(browser, browser.sync.stranger() ? 'mine' : undefined)) {
          moved = true;
          await this.#look(browser);
        }
        if (browser.waiting.size > 0) moved = true;
      }
      if (!moved && round > 0) break;
    }
    for (const browser of this.#browsers) await this.#look(browser);
  }

  /** In what the browsers differ from the server once all is quiet; empty where they do not. */
  async differences(): Promise<string[]> {
    const fresh = await this.#newBrowser();
    this.#networkOf(fresh).trouble = 0;
    await this.#look(fresh);
    const all = await this.#atServer();
    return this.#browsers.flatMap((browser) => {
      const found: string[] = [...browser.waiting.keys()].map(
        (record) => `${browser.name}: ${record} still waits`,
      );
      for (const { record, value, stored } of browser.rows.values()) {
        const theirs = all.get(record);
        if (!theirs && value === null) continue;
        if (!theirs || !isDeepStrictEqual(theirs.value, value) || theirs.change !== stored?.change)
          found.push(
            `${browser.name}: ${record} is ${JSON.stringify(value)}, at the server ${JSON.stringify(theirs?.value)}`,
          );
      }
      for (const record of all.keys())
        if (!browser.rows.has(record)) found.push(`${browser.name}: ${record} is missing`);
      return found;
    });
  }
}

const fail = (): never => {
  throw new Error('What waits was there a moment ago.');
};
