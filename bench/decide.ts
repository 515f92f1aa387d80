import type { Cost, Network, Program } from '#core/catalogue';
import { newDomain } from '#core/catalogue';
import { knownNetworks } from '#core/link-parts';
import { answersFrom, Dataset } from '#core/queries';
import { countRequests, daysOf, requestDimensions } from '#core/traffic';
import type { JournalRecord, PostbackRecord } from '#core/visits';
import { printTable } from './table.ts';
import { undisturbed } from './undisturbed.ts';
import { hops, links } from './world.ts';

const runs = Number(process.env['RUNS'] ?? 9);
const million = Number(process.env['ROWS'] ?? 1_000_000);
const sources = 500;
const [known] = knownNetworks;
if (!known) throw new Error('networks ship');
const networks = [0, 1, 2, 3].map((i): Network => ({
  ...known,
  id: `net_${i}`,
  zone: 'Europe/Berlin',
  postback: { ...known.postback, key: `key${i}`, pixelKey: `pix${i}` },
}));
const programs = Array.from({ length: 20 }, (_, i): Program => ({
  id: `prg_${i}`,
  network: `net_${i % 4}`,
  name: `P${i}`,
  code: String(i),
  hosts: [],
  state: 'joined',
}));
const linkById = new Map(links.map((link) => [link.id, link]));
const domain = newDomain('dom_see', 'see.nightledge.example', 'Europe/Berlin');
const [from, to] = ['2026-08-25', '2026-11-22'];
const now = Date.UTC(2026, 10, 23, 9);

/** Requests from five hundred sources over ninety days; a twentieth of them buys within some days. Every source costs a sum. */
const fill = (count: number): Dataset => {
  const data = new Dataset();
  const costs = Array.from({ length: sources }, (_, i): Cost => ({
    id: `cst_${i}`,
    of: { kind: 'source', source: `s${i}` },
    per: (['all', 'day', 'click'] as const)[i % 3] ?? 'all',
    amount: (['310', '2', '0.03'] as const)[i % 3] ?? '310',
    currency: 'EUR',
    from,
    note: '',
  }));
  data.setRecords({
    domains: [domain],
    networks,
    programs,
    links: links.map((link) => ({
      ...link,
      ...{ domain: domain.id, slug: link.id, destination: 'https://polehouse.example/' },
    })),
    costs,
  });
  const said: PostbackRecord[] = [];
  const records = function* (): Generator<JournalRecord> {
    let n = 0;
    for (const hop of hops(count)) {
      n += 1;
      // Few sources have most visitors.
      const source = `s${Math.floor((((n * 7919) % 10_007) / 10_007) ** 2 * sources)}`;
      yield { ...hop, source };
      if (n % 20 !== 0 || hop.click === '') continue;
      const at = hop.at + ((n * 31) % 97) ** 2 * 60_000;
      if (at >= now) continue;
      const amount = ((n * 17) % 900) / 100 + 1;
      const status = n % 3 === 0 ? 'open' : 'confirmed';
      said.push({
        ...{ seq: 0, kind: 'postback', at, network: linkById.get(hop.link)?.network ?? '', via: 'GET' },
        query: `click=${hop.click}&event=sale&status=${status}&amount=${amount.toFixed(2)}&currency=EUR&txn=T${n}`,
        ...{ body: null, ip: '' },
      });
    }
    said.sort((a, b) => a.at - b.at);
    for (const one of said) yield { ...one, seq: ++n };
  };
  data.add(records());
  return data;
};

const ask = (data: Dataset) =>
  answersFrom(data).whatPays({ by: 'source', from, to, where: [], currency: 'EUR', now });
/** As after something changed: costs are laid anew, and what is usual of programs is looked up anew. */
const askAnew = (data: Dataset) => {
  data.setRecords({});
  return ask(data);
};

/** The visits and visitors of every source, and nothing else. */
const counts = (data: Dataset) => {
  const { journal, classification, zone } = data;
  const { columns } = journal;
  const of = requestDimensions.source({
    ...{ columns, links, zone, passesOf: () => undefined, sourceOf: data.sourceOf },
    kindsIn: (segment) => classification.kindsIn(segment),
  });
  return countRequests({ columns, classification, days: daysOf(zone, from, to), where: [] }, [of]);
};

const timed = (work: () => unknown): number => {
  const began = performance.now();
  work();
  return performance.now() - began;
};

const main = async (): Promise<void> => {
  const [once, twice] = [fill(million), fill(million * 2)];
  // What both rest on is there: requests classified, conversions matched. Nothing measured is what was not checked.
  for (const data of [once, twice]) {
    const { lines, whole } = ask(data);
    const { breakdowns } = counts(data);
    for (const { value, visitors } of lines)
      if (breakdowns[0]?.get(value)?.visitors !== visitors) throw new Error(`${value}: ${visitors} visitors`);
    console.log(
      `${lines.length} rows, ${whole.visits} visits, ${whole.conversions} conversions, ${lines.filter(({ band }) => band).length} bands`,
    );
  }
  const measured: { rows: number; anew: number; counts: number; twice: number }[] = [];
  for (let run = 0; run < runs; run++) {
    const { value } = await undisturbed(() =>
      Promise.resolve({
        anew: timed(() => askAnew(once)),
        rows: timed(() => ask(once)),
        counts: timed(() => counts(once)),
        twice: timed(() => askAnew(twice)),
      }),
    );
    measured.push(value);
  }
  printTable(`What pays by ${sources} sources, ${million} requests, medians of ${runs} runs`, [
    { what: 'milliseconds', values: measured.map(({ rows }) => rows) },
    {
      what: 'all rows with bands ÷ the grouped counts alone',
      values: measured.map(({ rows, counts: alone }) => rows / alone),
      most: 1.5,
    },
    {
      what: 'the first of them after a change ÷ the grouped counts alone',
      values: measured.map(({ anew, counts: alone }) => anew / alone),
    },
    {
      what: 'twice the requests ÷ once, after a change',
      values: measured.map(({ anew, twice: more }) => more / anew),
      most: 2.2,
    },
  ]);
};

main().catch((error: unknown) => {
  console.error(error);
  process.exitCode = 1;
});
