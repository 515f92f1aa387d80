import { writeTable } from '#core/formats';
import { escapeHtml } from '#core/hop';
import type { Judged, JudgedRequest } from '#core/queries';
import { isoIn } from '#core/reconcile';
import type { Sign, Verdict } from '#core/traffic';
import { count, lasted, percent } from '../theme/formats.ts';

export const verdictWords: Readonly<Record<Verdict, string>> = {
  'too few': 'Too few requests to judge',
  'nothing odd': 'Like your other sources',
  'something odd': 'Something is odd',
  machines: 'Looks like machines',
};

const agentsWords = (n: number): string => (n === 1 ? 'one user agent' : `${count(n)} user agents`);

const against = (others: string | undefined): string =>
  others === undefined ? '' : `; of your other sources ${others}`;

/** What a sign says, as a sentence without its full stop. */
export const signWords = ({ name, own, others }: Sign): string => {
  const of = (words: (value: number) => string) => against(others === undefined ? undefined : words(others));
  switch (name) {
    case 'burst':
      return `Half came within ${lasted(own)}${of((ms) => `within ${lasted(ms)}`)}`;
    case 'agents':
      return `Four in five from ${agentsWords(own)}${of((n) => `from ${count(n)}`)}`;
    case 'hosting':
      return `${percent(own)} from hosting networks${of(percent)}`;
    case 'language':
      return `${percent(own)} name no language${of(percent)}`;
    case 'again':
      return `${percent(own)} came again${of(percent)}`;
    case 'scrolled':
      return `${percent(own)} scrolled on your own pages${of(percent)}`;
    case 'conversions':
      return `${percent(own)} of visits led to a conversion${of(percent)}`;
  }
};

/** What most of it is, in one line: how many of how many, in what time, by how many user agents. */
export const machinesWords = ({ requests, burst, agents, machines }: Judged): string => {
  if (!machines) return '';
  return [
    `${count(machines.requests)} of ${count(requests)} requests`,
    ...(burst ? [`in ${lasted(burst.until - burst.from)}`] : []),
    ...(agents.length > 0 ? [`by ${agentsWords(agents.length)}`] : []),
  ].join(' ');
};

/** The requests behind a verdict, for whoever sold them. */
export const judgedCsv = (requests: readonly JudgedRequest[], zone: string): string =>
  writeTable(
    ['At', 'Click', 'User agent', 'Language', 'Country', 'Connection', 'Counted'],
    requests.map(({ at, click, agent, language, country, connection, isBot }) => [
      isoIn(zone, at),
      click,
      agent,
      language,
      country,
      connection === '' ? '' : `${connection} network`,
      isBot ? 'no: a machine' : 'yes',
    ]),
  );

/** What could not be told, as a sentence. */
export const unseenWords = ({ signs }: Judged): string => {
  const knows = (name: Sign['name']) => signs.some((sign) => sign.name === name);
  const unseen = [
    ...(knows('hosting') ? [] : ['From which networks they came is known of too few.']),
    ...(knows('scrolled') ? [] : ['A redirect cannot see who reads on; pages of yours with the script can.']),
  ];
  return unseen.join(' ');
};

/** What was left out of a verdict, as a sentence; empty where nothing was. */
export const onwardWords = ({ onward }: Judged): string =>
  onward === 0
    ? ''
    : `${count(onward)} ${onward === 1 ? 'press' : 'presses'} on your own landing pages are not judged.`;

/** What a verdict rests on, as a page to read and print, for whoever sold the visits. */
export const verdictPage = (
  source: string,
  { from, to, zone, at }: { from: string; to: string; zone: string; at: number },
  judged: Judged,
): string => {
  const { verdict, signs, burst, agents, requests, bots } = judged;
  const line = (words: string) => `<li>${escapeHtml(words)}</li>`;
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${escapeHtml(`Visits by ${source}, ${from} to ${to}`)}</title>
<style>body{font:14px/1.45 Georgia,serif;max-width:52em;margin:2em auto;padding:0 1em;color:#1f2a25;background:#fff}
td,th{text-align:left;vertical-align:top;padding:3px 14px 3px 0;border-bottom:1px solid #d9d2bf;overflow-wrap:anywhere}table{border-collapse:collapse}</style></head><body>
<h1>${escapeHtml(`Visits by ${source}, ${from} to ${to}`)}</h1>
<p>${escapeHtml(`${count(requests)} requests, of which ${count(bots)} count as machines’. ${verdictWords[verdict]}. Days and times in ${zone}.`)}</p>
<ul>
${signs.map((sign) => line(`${signWords(sign)}.${sign.isOdd ? ' Odd, and more than chance.' : ''}`)).join('\n')}
</ul>
${burst ? `<p>${escapeHtml(`${count(burst.requests)} came from ${isoIn(zone, burst.from)} to ${isoIn(zone, burst.until)}.`)}</p>` : ''}
${
  agents.length === 0
    ? ''
    : `<table><thead><tr><th>Requests</th><th>User agent</th></tr></thead><tbody>
${agents.map(({ agent, requests: n }) => `<tr><td>${count(n)}</td><td>${escapeHtml(agent || 'none')}</td></tr>`).join('\n')}
</tbody></table>`
}
<p>${escapeHtml(`Written ${isoIn(zone, at)} from our journal of redirects. ${unseenWords(judged)}`)}</p>
</body></html>
`;
};
