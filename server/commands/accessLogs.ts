import { createReadStream } from 'node:fs';
import { access, constants } from 'node:fs/promises';
import { basename } from 'node:path';
import { parseArgs } from 'node:util';
import type { AskLogs, LogFile, LogReport } from '#core/visits';
import { logPieceBytes, sendLogs } from '#core/visits';
import { AdminKey } from '../adminKey.ts';
import { readConfig } from '../config.ts';
import { catalogueOf } from '../dataFolder.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run access-logs -- --data DIR [--host see.nightledge.example] [--dry-run] [--json] FILE… of the server that runs on DIR; PORT is read from the environment.';

const filesAt = function* (paths: readonly string[]): Generator<LogFile> {
  for (const path of paths)
    yield { name: basename(path), pieces: createReadStream(path, { highWaterMark: logPieceBytes }) };
};

const moment = (at: number): string => new Date(at).toISOString().slice(0, 16).replace('T', ' ');

/** What came of access logs, as lines of text. */
const reportText = (report: LogReport, dryRun: boolean, titleOf: (link: string) => string): string => {
  const { fresh, noLink, otherHosts, unread } = report;
  const lines: string[] = [];
  const say = (count: number, words: string) => {
    if (count > 0) lines.push(`${String(count).padStart(10)}  ${words}`);
  };
  const most = (all: readonly (readonly [string, number])[], nameOf = (text: string) => text) => {
    for (const [text, count] of all) lines.push(`${String(count).padStart(20)}  ${nameOf(text)}`);
  };
  for (const { name, form, problem } of report.files)
    lines.push(problem === undefined ? `${name}: ${form ?? ''}` : `${name}: ${problem}`);
  const when = fresh.count > 0 ? `, ${moment(report.from)} to ${moment(report.until)} UTC` : '';
  lines.push(
    `${String(fresh.count).padStart(10)}  requests of links ${dryRun ? 'would be' : 'were'} brought in${when}`,
  );
  most(fresh.most, titleOf);
  say(report.known, 'are in the journal already');
  say(noLink.count, 'ask for no link');
  most(noLink.most);
  say(otherHosts.count, 'ask another host');
  most(otherHosts.most);
  say(report.noHost, 'name no host: say with --host which domain was asked');
  say(report.rolledUp, 'are of a time of which only daily counts are kept');
  say(report.none, 'are no requests');
  say(unread.count, 'cannot be read');
  for (const { file, line, text, why } of unread.first)
    lines.push(`            ${file}, line ${line}: ${why} ${text}`);
  return `${lines.join('\n')}\n`;
};

const main = async (): Promise<number> => {
  const { values, positionals: paths } = parseArgs({
    options: {
      data: { type: 'string' },
      host: { type: 'string', default: '' },
      'dry-run': { type: 'boolean', default: false },
      json: { type: 'boolean', default: false },
    },
    allowPositionals: true,
    strict: true,
  });
  if (paths.length === 0) throw new Error(`Name at least one log. ${usage}`);
  for (const path of paths)
    await access(path, constants.R_OK).catch(() => {
      throw new Error(`${path} cannot be read.`);
    });
  const { port, dataDir, key } = readConfig({
    ...process.env,
    ...(values.data === undefined ? {} : { DATA_DIR: values.data }),
  });
  // Without a catalogue there is no server on the folder, and no key to make up.
  const links = new Map(
    catalogueOf(dataDir)
      .all('link')
      .map(({ id, slug }) => [id, slug]),
  );
  const bearer = new AdminKey(dataDir, key).value;
  const ask: AskLogs = async (path, body) => {
    const isPiece = body instanceof Uint8Array;
    const response = await fetch(`http://127.0.0.1:${port}/api/access-logs${path}`, {
      method: 'POST',
      headers: {
        Authorization: `Bearer ${bearer}`,
        Origin: `http://localhost:${port}`,
        'Content-Type': isPiece ? 'application/octet-stream' : 'application/json',
      },
      body: isPiece ? new Uint8Array(body) : JSON.stringify(body),
    }).catch(() => {
      throw new Error(`No server answers at port ${port}. Start it on ${dataDir}, or say its port in PORT.`);
    });
    const answer: unknown = await response.json();
    if (response.ok) return answer;
    const { detail } = answer as { detail?: string }; // as problems are told (RFC 9457)
    throw new Error(detail ?? `The server answered ${response.status}.`);
  };
  const dryRun = values['dry-run'];
  const reading = { host: values.host, dryRun, files: paths.length, by: 'The command' };
  let last: LogReport | undefined;
  for await (const { report } of sendLogs(ask, reading, filesAt(paths))) last = report;
  if (!last) throw new Error('The server gave no report.');
  process.stdout.write(
    values.json
      ? `${JSON.stringify(last, null, 2)}\n`
      : reportText(last, dryRun, (link) => links.get(link) ?? link),
  );
  return last.files.some(({ problem }) => problem !== undefined) ? 1 : 0;
};

endWith(main(), usage);
