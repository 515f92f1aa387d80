import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Change, Domain, Link, RecordKind } from '#core/catalogue';
import { newDomain, undoChange, withAddress, withPrefix } from '#core/catalogue';
import { anyLink } from '../core/catalogue/testing/anyLink.ts';
import { answerVisit, clickTime } from '#core/hop';
import type { Row, Waiting } from '../app/sync/index.ts';
import type { Edit } from '../app/sync/entries.ts';
import { afterAnswer, afterEdit } from '../app/sync/entries.ts';
import { accept } from '../server/feed/accept.ts';
import { LinkTable } from '../server/feed/linkTable.ts';
import { listenForHops } from '../server/testing/hops.ts';

const ids = ['lnk_1', 'lnk_2', 'lnk_3', 'lnk_4'] as const;
const slugs = ['kit', 'lamp', 'map', 'tent'];
const host = 'see.nightledge.localhost';
type Step = {
  readonly kind: RecordKind;
  readonly record: string;
  readonly before: object | null;
  readonly after: object | null;
};

/** What a person may do with their links and their domain. */
const action = fc.oneof(
  { weight: 4, arbitrary: fc.record({ do: fc.constant('rename' as const), of: fc.nat(3), to: fc.nat(3) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('group' as const), of: fc.nat(3), to: fc.nat(2) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('group of all' as const), to: fc.nat(2) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('prefix' as const), to: fc.nat(2) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('show groups' as const) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('archive' as const), of: fc.nat(3), to: fc.nat(4) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('bring back' as const), of: fc.nat(3) }) },
  { weight: 5, arbitrary: fc.record({ do: fc.constant('undo' as const) }) },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('redo' as const) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('restore' as const), of: fc.nat(3), to: fc.nat(9) }) },
  { weight: 2, arbitrary: fc.record({ do: fc.constant('import' as const), of: fc.nat(3) }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('remove' as const), of: fc.nat(3) }) },
  { weight: 5, arbitrary: fc.record({ do: fc.constant('send' as const) }) },
);
type Action = typeof action extends fc.Arbitrary<infer A> ? A : never;

/** A browser and a server's link table between which changes are sent when told, and what was placed. */
class World {
  readonly table = new LinkTable();
  readonly rows = new Map<string, Row>();
  readonly #waiting = new Map<string, Waiting>();
  readonly #steps: Step[][] = [];
  /** What undid steps, to be done again. */
  readonly #undone: Step[][] = [];
  readonly #versions = new Map<string, Link[]>();
  #version = 0;
  #changes = 0;
  /** The link that answered at each path, as long as it is there. */
  readonly placed = new Map<string, string>();
  readonly #firsts: readonly Link[];

  constructor(links: readonly Link[]) {
    this.#firsts = links;
    this.#save([{ kind: 'domain', record: 'dom_see', value: newDomain('dom_see', host, 'Europe/Berlin') }]);
    for (const link of links) this.#save([{ kind: 'link', record: link.id, value: link }]);
    this.send();
    this.#steps.length = 0;
  }

  readonly #make = {
    changeId: () => `chg_${String((this.#changes += 1)).padStart(6, '0')}`,
    now: () => 0,
    by: () => 'Ines',
  };

  link(of: number): Link | undefined {
    return (this.rows.get(ids[of] ?? '')?.value ?? undefined) as Link | undefined; // rows of these IDs hold links
  }
  get domain(): Domain {
    return this.rows.get('dom_see')?.value as Domain; // it is never removed
  }

  /** Saves edits as one step; gives it, the last edit first. */
  #perform(edits: readonly Edit[]): Step[] {
    const steps = edits.map((edit): Step => {
      const before = this.rows.get(edit.record)?.value ?? null;
      const entry = afterEdit(edit, this.rows.get(edit.record), this.#waiting.get(edit.record), this.#make);
      this.#take(entry);
      const after = this.rows.get(edit.record)?.value ?? null;
      if (edit.kind === 'link' && after)
        this.#versions.set(edit.record, [...(this.#versions.get(edit.record) ?? []), after as Link]); // of this kind
      return { kind: edit.kind, record: edit.record, before, after };
    });
    return steps.reverse();
  }

  #save(edits: readonly Edit[]): void {
    this.#steps.push(this.#perform(edits));
    this.#undone.length = 0;
  }

  /** Undoes a step, or does again what was undone; gives what that did. */
  #reverse(steps: readonly Step[]): Step[] {
    return this.#perform(
      steps.map(({ kind, record, before, after }) => ({
        kind,
        record,
        value: undoChange(before, after, this.rows.get(record)?.value ?? null).value,
      })),
    );
  }

  #take({ record, row, waiting }: ReturnType<typeof afterEdit>): void {
    if (row) this.rows.set(record, row);
    if (waiting) this.#waiting.set(record, waiting);
    else this.#waiting.delete(record);
  }

  /** Sends everything that waits; the server takes or refuses it as it does. */
  send(): void {
    const waiting = [...this.#waiting.values()].filter(({ refusal }) => !refusal);
    const order = (change: Change) => (change.kind === 'domain' ? 0 : 1);
    for (const { change } of waiting.toSorted((a, b) => order(a.change) - order(b.change))) {
      const now = this.#waiting.get(change.record);
      const row = this.rows.get(change.record);
      if (!now || !row) throw new Error('What waits has its row.');
      const accepted = accept(change, this.table, () => false);
      if (accepted.ok) {
        this.#version += 1;
        this.table.put({ ...change, value: accepted.value, version: this.#version });
      }
      const outcome = accepted.ok ? { taken: this.#version } : { refusal: accepted.problem };
      const entry = afterAnswer(change, now, row, outcome, true, this.#make);
      this.#take({ ...entry, row: entry.row ?? row });
      this.#remember();
    }
  }

  /** True where the server has all that is shown here. */
  get isLive(): boolean {
    return this.#waiting.size === 0;
  }

  #remember(): void {
    // Who removes a link is told that it no longer answers.
    for (const [path, id] of this.placed) if (!this.table.links.has(id)) this.placed.delete(path);
    for (const [path, { id }] of this.table.hosts.get(host)?.links ?? []) this.placed.set(path, id);
  }

  do(act: Action): void {
    const edit = (link: Link | undefined, change: (link: Link) => Link): void => {
      if (link) this.#save([{ kind: 'link', record: link.id, value: change(link) }]);
    };
    switch (act.do) {
      case 'rename':
        return edit(this.link(act.of), (link) => withAddress(link, slugs[act.to] ?? ''));
      case 'group':
        return edit(this.link(act.of), (link) => withAddress(link, link.slug, ['', 'gear', 'books'][act.to]));
      case 'group of all': {
        const list = ids.flatMap((_, of) => this.link(of) ?? []);
        const group = ['', 'gear', 'books'][act.to];
        return this.#save(
          list.map((link) => ({ kind: 'link', record: link.id, value: withAddress(link, link.slug, group) })),
        );
      }
      case 'prefix':
        return this.#save([
          {
            kind: 'domain',
            record: 'dom_see',
            value: withPrefix(this.domain, ['', 'go/', 'to/'][act.to] ?? ''),
          },
        ]);
      case 'show groups':
        return this.#save([
          { kind: 'domain', record: 'dom_see', value: { ...this.domain, groups: !this.domain.groups } },
        ]);
      case 'archive':
        return edit(this.link(act.of), (link) => ({
          ...link,
          archived: { at: 1, ...(act.to < 4 && act.to !== act.of && { to: ids[act.to] ?? '' }) },
        }));
      case 'bring back':
        return edit(this.link(act.of), ({ archived: _, ...link }) => link);
      case 'undo': {
        const steps = this.#steps.pop();
        if (steps) this.#undone.push(this.#reverse(steps));
        return;
      }
      case 'redo': {
        const steps = this.#undone.pop();
        if (steps) this.#steps.push(this.#reverse(steps));
        return;
      }
      case 'restore': {
        const versions = this.#versions.get(ids[act.of] ?? '') ?? [];
        const version = versions[act.to % versions.length];
        return version && edit(version, (link) => link);
      }
      case 'import':
        // A file from an earlier day, brought in over what is there.
        return edit(this.#firsts[act.of], (link) => link);
      case 'remove':
        return this.link(act.of) && this.#save([{ kind: 'link', record: ids[act.of] ?? '', value: null }]);
      case 'send':
        return this.send();
    }
  }
}

const worlds = fc.tuple(...ids.map((id, i) => anyLink({ id, domain: 'dom_see', slug: slugs[i] ?? '' })));
const actions = fc.array(action, { minLength: 1, maxLength: 25 });

describe('nothing once placed breaks', () => {
  it('whatever is renamed, grouped, undone, done again, restored, imported or archived, each address answers for its link: property', () => {
    fc.assert(
      fc.property(worlds, actions, (links, acts) => {
        const world = new World(links);
        const before = world.placed.size;
        for (const act of acts) world.do(act);
        world.send();
        expect(before).toBeGreaterThan(3);
        const answering = world.table.hosts.get(host)?.links;
        for (const [path, id] of world.placed) expect([path, answering?.get(path)?.id]).toEqual([path, id]);
      }),
      { numRuns: 600 },
    );
  });

  it('and a visitor gets what the screen shows of it, byte for byte: property', async () => {
    // A Wednesday noon within what the hours speak of.
    const now = Date.parse('2026-11-11T11:00:00Z');
    let compared = 0;
    await fc.assert(
      fc.asyncProperty(worlds, actions, async (links, acts) => {
        const world = new World(links);
        for (const act of acts) world.do(act);
        world.send();
        const wire = await listenForHops(world.table, () => now);
        try {
          for (const [path, id] of world.placed) {
            const asked = (world.rows.get(id)?.value ?? undefined) as Link | undefined; // of this kind
            // What was refused waits to be mended; the wire has the version before it.
            if (!asked || !world.isLive) continue;
            compared += 1;
            wire.written.length = 0;
            const answer = await wire.ask(host, `${path}~flyer?kw=1`, {
              'User-Agent': 'Mozilla/5.0 (X11; Linux x86_64) Gecko/20100101',
              'Accept-Language': 'de-DE',
            });
            const line = wire.written[0] ?? '';
            const record = {
              click: /"click":"([^"]*)"/.exec(line)?.[1] ?? '',
              visitor: /"visitor":"([^"]*)"/.exec(line)?.[1] ?? '',
            };
            const nonce =
              /'nonce-([^']+)'/.exec(String(answer.headers['content-security-policy']))?.[1] ?? '';
            const second = /second-page=([\w.-]+)/.exec(answer.body)?.[1] ?? '';
            const shown = answerVisit(
              asked,
              {
                link: (other) => (world.rows.get(other)?.value ?? undefined) as Link | undefined, // of this kind
                domain: () => world.domain,
                program: () => undefined,
              },
              {
                at: clickTime(record.click) ?? now,
                source: 'flyer',
                query: 'kw=1',
                country: 'DE',
                device: 'desktop',
                language: 'de-DE',
                visitor: record.visitor,
                returning: false,
              },
              record.click,
              { host, path, nonce: () => nonce, sealSecondPage: () => second },
            );
            const headers =
              shown?.response.headers.map((text, i) => (i % 2 === 0 ? text.toLowerCase() : text)) ?? [];
            const pairs = headers.flatMap((name, i) =>
              i % 2 === 0 ? [[name, headers[i + 1]] as const] : [],
            );
            expect([answer.status, answer.body]).toEqual([shown?.response.status, shown?.response.body]);
            expect(answer.headers).toMatchObject(Object.fromEntries(pairs));
          }
        } finally {
          await wire.close();
        }
        expect(wire.failures).toEqual([]);
      }),
      { numRuns: 40 },
    );
    expect(compared).toBeGreaterThan(100);
  });
});
