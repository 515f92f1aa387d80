import { randomBytes } from 'node:crypto';
import { rmSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { secret } from '#core/catalogue';
import { postbackFields } from '#core/catalogue';
import { sendChanges } from '../server/client.ts';
import { readConfig } from '../server/config.ts';
import { fail, run, stopOnSignal } from '../server/run.ts';
import { send } from '../standins/index.ts';
import { account, nightledge } from './nightledge.ts';
import { liveThrough } from './visitors.ts';

const usage = 'Usage: npm run demo [-- --port 4600] [--fresh]';

/** Fills an empty server with Nightledge and thirty days of its visitors. */
const fill = async (port: number, key: string, setClock: (at: number) => void, idle: () => Promise<void>) => {
  const place = { port, key };
  const end = Date.now();
  const days = 30;
  setClock(end - days * 86_400_000);
  const keys = { postback: secret(randomBytes(30)), pixel: secret(randomBytes(30)) };
  const { changes, domain, network, links } = nightledge(port, keys, end);
  const { refused } = await sendChanges(place, changes);
  if (refused[0]) throw new Error(`the demo data was refused: ${refused[0].message}`);
  const query = postbackFields
    .flatMap((field) => {
      const placeholder = network.postback.placeholders[field];
      return placeholder === undefined ? [] : [`${field}=${placeholder}`];
    })
    .join('&');
  await send(
    `http://t.harrowmead.localhost:${port + 1}/console/postback`,
    { method: 'POST', headers: { 'Content-Type': 'application/x-www-form-urlencoded' } },
    `deal=&url=${encodeURIComponent(`http://${domain.host}:${port}/postback/${keys.postback}?${query}`)}`,
  );
  await liveThrough({ port, domain, links, days, visitorsPerDay: 16, seed: 881, setClock, idle, end });
};

const main = async (): Promise<void> => {
  const { values } = parseArgs({
    options: { port: { type: 'string' }, fresh: { type: 'boolean' } },
    strict: true,
  });
  const config = readConfig({
    ...process.env,
    STANDINS: '1',
    // Simulated visitors come from many countries; they say so in a forwarding header.
    TRUST_PROXY: '127.0.0.1, ::1',
    ...(values.port === undefined ? {} : { PORT: values.port }),
  });
  if (values.fresh === true) rmSync(config.dataDir, { recursive: true, force: true });

  let shifted: number | undefined;
  const running = await run(config, () => shifted ?? Date.now());
  stopOnSignal(running);
  const { fernhop, standins } = running;
  if (fernhop.isNew) {
    process.stdout.write('Filling in thirty days of Nightledge …\n');
    await fill(config.port, fernhop.key, (at) => (shifted = at), standins?.idle ?? (() => Promise.resolve()));
    shifted = undefined;
  }
  process.stdout.write(
    [
      '',
      `Fernhop          ${config.appOrigin}/#key=${fernhop.key}`,
      `Tracking links   http://t.harrowmead.localhost:${config.port + 1}/   (account ${account}: copy one, paste it)`,
      `Network console  http://t.harrowmead.localhost:${config.port + 1}/console`,
      `A shop           http://polehouse.localhost:${config.port + 1}/`,
      '',
      'Ctrl+C ends it. The data stays in ' + config.dataDir + '; -- --fresh begins anew.',
      '',
    ].join('\n'),
  );
};

main().catch((error: unknown) => {
  if (error instanceof Error && 'code' in error && String(error.code).startsWith('ERR_PARSE_ARGS'))
    fail(new Error(`${error.message.split('. ')[0] ?? ''}. ${usage}`));
  fail(error);
});
