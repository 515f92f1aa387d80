import { describe, expect, it } from 'vitest';
import type { HopRecord } from '#core/visits';
import { defaultRules } from '#core/visits';
import { answersFrom, Dataset } from './index.ts';
import { hopRecord } from '../visits/testing/records.ts';
import { domain, links, networks, programs } from './testing/worlds.ts';

const begin = Date.UTC(2026, 9, 5, 8);
const day = 86_400_000;
const minute = 60_000;
const browser = (n: number) => `Mozilla/5.0 (X11; Linux x86_64; rv:${n}.0) Gecko/20100101 Firefox/${n}.0`;
let made = 0;
const hop = (more: Partial<HopRecord>): HopRecord => {
  made += 1;
  const visitor = (made * 2_654_435_761).toString(16).padStart(16, '0').slice(-16);
  const click = `01KAAAAAAAAAAAAAAAA${String(1_000_000 + made)}`;
  return hopRecord({ seq: made, click, link: 'lnk_a', visitor, lang: 'de', ...more });
};
/** Three weeks of readers of an article, and 900 visits that were bought: 800 in forty minutes by two user agents, the rest as readers are. */
const journal = (): HopRecord[] => {
  made = 0;
  const readers = Array.from({ length: 1500 }, (_, i) => ({
    at: begin + i * 20 * minute,
    source: 'article',
    ua: browser(60 + (i % 60)),
  }));
  const machines = Array.from({ length: 800 }, (_, i) => ({
    at: begin + 10 * day + i * 3000,
    source: i % 9 === 0 ? 'Bought' : 'bought',
    ua: browser(140 + (i % 2)),
    lang: '',
  }));
  const people = Array.from({ length: 100 }, (_, i) => ({
    at: begin + i * 4 * 60 * minute,
    source: 'bought',
    ua: browser(60 + (i % 60)),
  }));
  return [...readers, ...machines, ...people].toSorted((a, b) => a.at - b.at).map(hop);
};
const question = { source: 'bought', from: '2026-10-05', to: '2026-10-27' };
const dataset = () => {
  const data = new Dataset();
  const as = [{ id: 'src_b', source: 'Bought', title: '', channel: '', note: '', as: 'bought' }];
  data.setRecords({ domains: [domain], networks, programs, links, sources: as });
  data.add(journal());
  return data;
};
const sourceLines = (data: Dataset) =>
  Object.fromEntries(
    answersFrom(data)
      .traffic({ by: 'source', from: question.from, to: question.to, where: [] })
      .lines.map(({ value, requests }) => [value, [requests.counted, requests.bot]]),
  );

describe('a source that is judged', () => {
  it('is told by what came at once and by what, and counts anew once that is treated as machines', () => {
    const data = dataset();
    const ask = answersFrom(data);
    const { requests, bots, verdict, burst, agents, machines } = ask.judged(question);
    expect([requests, bots, verdict]).toEqual([900, 0, 'machines']);
    // A person who came by meanwhile may stand at an end.
    expect(burst?.from).toBe(begin + 10 * day);
    expect(Math.abs((burst?.until ?? 0) - (begin + 10 * day + 799 * 3000))).toBeLessThan(minute);
    expect(agents.map(({ agent }) => agent)).toEqual([browser(140), browser(141)]);
    expect(machines).toMatchObject({ sources: ['bought', 'Bought'], requests: 800 });
    expect(sourceLines(data)).toEqual({ article: [1500, 0], bought: [900, 0] });
    if (!machines) throw new Error('nothing to treat');
    const { requests: _taken, ...rule } = machines;
    data.setRules({
      ...defaultRules,
      ownByTest: false,
      robots: [],
      machines: [structuredClone(rule)] as never,
    });
    // People who came by the same source, and others with the same user agents at other times, stay people.
    expect(sourceLines(data)).toEqual({ article: [1500, 0], bought: [100, 800] });
    const after = ask.judged(question);
    expect([after.bots, after.machines, after.treated.length]).toEqual([800, undefined, 1]);
    data.setRules(undefined);
    expect(sourceLines(data)).toEqual({ article: [1500, 0], bought: [900, 0] });
  });

  it('is not judged by tests and prefetches, and another is not by its machines', () => {
    const data = dataset();
    const ask = answersFrom(data);
    const { last } = data;
    data.add(
      Array.from({ length: 300 }, (_, i) =>
        hop({
          seq: last + 1 + i,
          at: begin + 11 * day,
          source: 'bought',
          prefetch: i % 2 === 0,
          test: i % 2 === 1,
        }),
      ),
    );
    expect(ask.judged(question).requests).toBe(900);
    const article = ask.judged({ ...question, source: 'article' });
    expect([article.verdict, article.machines]).toEqual(['nothing odd', undefined]);
    expect(ask.judged({ ...question, source: 'nobody' })).toMatchObject({ requests: 0, verdict: 'too few' });
  });

  it('is judged the same whoever of it went on from a landing page, and so are the others', () => {
    const [plain, landed] = [dataset(), dataset()];
    const asked = answersFrom(landed);
    const presses = (source: string) =>
      asked
        .judgedRequests({ ...question, source })
        .slice(0, 200)
        .map(({ at, click }) => ({ at: at + 2 * minute, source, first: click }));
    const all = [...presses('bought'), ...presses('article')];
    landed.add(
      all.map((one, i) => hop({ ...one, seq: landed.last + 1 + i, link: 'lnk_b', ua: browser(70) })),
    );
    for (const source of ['bought', 'article']) {
      const { onward, ...found } = asked.judged({ ...question, source });
      expect(onward).toBe(200);
      expect({ ...found, onward: 0 }).toEqual(answersFrom(plain).judged({ ...question, source }));
    }
    // Of a day on which nobody came to the page, a press on it is a visit like any other.
    landed.add([
      hop({ seq: landed.last + 1, at: begin + 25 * day, source: 'bought', first: all[0]?.first ?? '' }),
    ]);
    expect(asked.judged({ source: 'bought', from: '2026-10-30', to: '2026-10-30' })).toMatchObject({
      requests: 1,
      onward: 0,
    });
  });

  it('is judged by who scrolled on a page of one’s own, where readers of other sources told how they read it', () => {
    const data = dataset();
    const page = 'https://nightledge.example/first-night';
    const [landing] = links;
    data.setRecords({
      links: [{ ...landing, id: 'lnk_a', destination: `${page}?from-click={click}` }] as never,
    });
    const told = {
      kind: 'reading',
      at: begin + day,
      page,
      views: 400,
      seconds: 9000,
      depth: 20_000,
    } as const;
    data.add([
      { ...told, seq: data.last + 1, source: 'article', scrolled: 700 },
      { ...told, seq: data.last + 2, source: 'Bought', scrolled: 9 },
      // Readers whom nobody of ours sent, of another day, of a frame.
      { ...told, seq: data.last + 3 },
      { ...told, seq: data.last + 4, at: begin - 9 * day, source: 'bought', scrolled: 99 },
      { ...told, seq: data.last + 5, link: 'lnk_frame', source: 'bought', scrolled: 99 },
    ]);
    const sign = answersFrom(data)
      .judged(question)
      .signs.find(({ name }) => name === 'scrolled');
    expect(sign).toEqual({ name: 'scrolled', own: 9 / 900, others: 700 / 1500, isOdd: true });
  });

  it('gives its requests for a file, with nothing that tells who came', () => {
    const requests = answersFrom(dataset()).judgedRequests(question);
    expect(requests.length).toBe(900);
    expect(new Set(requests.flatMap((one) => Object.keys(one)))).toEqual(
      new Set(['at', 'click', 'link', 'agent', 'language', 'country', 'connection', 'isBot']),
    );
  });
});
