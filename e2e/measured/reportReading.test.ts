import Papa from 'papaparse';
import { expect, it } from 'vitest';
import { guessReport, readReport } from '#core/conversions';
import { openTable } from '#core/formats';
import { knownNetworks } from '#core/link-parts';

/** How many times as long as only cutting the file into cells reading all of it may take. */
const most = 6;
const rows = 200_000;

it('two hundred thousand rows are read in a few times what cutting them into cells takes', async () => {
  const [known] = knownNetworks;
  if (!known) throw new Error('networks ship');
  const { report: _, ...network } = {
    ...known,
    id: 'net_h',
    postback: { ...known.postback, key: 'k', pixelKey: 'p' },
  };
  const two = (n: number) => String(n).padStart(2, '0');
  const lines = ['Order ID;Event date;Click date;Program;Order value;Commission;Currency;Status;SubID'];
  for (let i = 0; i < rows; i++) {
    const cents = 100 + ((i * 7919) % 90_000);
    const value = `${Math.floor(cents / 100)},${two(cents % 100)}`;
    const paid = Math.round(cents * 0.07);
    const day = `${two(1 + (i % 28))}.10.2026 ${two(i % 24)}:${two(i % 60)}:${two((i * 7) % 60)}`;
    lines.push(
      `HM-${1_000_000 + i};${day};${two(1 + (i % 28))}.09.2026;Oakhollow Lamps;${value};${Math.floor(paid / 100)},${two(paid % 100)};EUR;confirmed;01M3SM4FM0F794THTRE9${String(100_000 + (i % 900_000))}`,
    );
  }
  const text = lines.join('\n');
  const bytes = new TextEncoder().encode(text);
  const [cuts, reads]: [number[], number[]] = [[], []];
  for (let run = 0; run < 7; run++) {
    const began = performance.now();
    const cut = Papa.parse<string[]>(text, { delimiter: ';' }).data.length;
    const cutMs = performance.now() - began;
    const started = performance.now();
    const opened = await openTable(bytes);
    if (!opened.ok) throw new Error(opened.message);
    const { profile, asks } = guessReport(opened.table, network, {}, Date.UTC(2026, 10, 27));
    const read = readReport(opened.table, profile, network);
    const readMs = performance.now() - started;
    expect([cut, asks, read.rows.length, read.bad.length]).toEqual([rows + 1, [], rows, 0]);
    cuts.push(cutMs);
    reads.push(readMs);
    process.stdout.write(
      `${rows} rows: ${readMs.toFixed(0)} ms, ${(readMs / cutMs).toFixed(1)} times the ${cutMs.toFixed(0)} ms of papaparse alone\n`,
    );
  }
  // Whatever else the machine does only adds to a time, so the least of each is what it takes.
  expect(Math.min(...reads) / Math.min(...cuts)).toBeLessThanOrEqual(most);
});
