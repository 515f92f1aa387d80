import { parseArgs } from 'node:util';
import { isLocalHost } from '#core/catalogue';
import { caddyfile, nginxBlocks } from '#core/formats';
import { readConfig } from '../config.ts';
import { catalogueOf } from '../dataFolder.ts';
import { endWith } from './ending.ts';

const usage =
  'Usage: npm run webserver -- --for caddy|nginx [--data DIR]. PORT and APP_ORIGIN are read from the environment, as by the server.';

/** Prints the configuration of a web server that is put in front. */
const main = (): number => {
  const { values } = parseArgs({
    options: { for: { type: 'string' }, data: { type: 'string' } },
    strict: true,
  });
  const { port, appOrigin, dataDir } = readConfig({
    ...process.env,
    ...(values.data === undefined ? {} : { DATA_DIR: values.data }),
  });
  if (values.for === 'caddy') {
    process.stdout.write(caddyfile({ port }));
    return 0;
  }
  if (values.for !== 'nginx') throw new Error(`--for takes caddy or nginx. ${usage}`);
  const hosts = [
    new URL(appOrigin).hostname,
    ...catalogueOf(dataDir)
      .all('domain')
      .map(({ host }) => host),
  ].filter((host) => !isLocalHost(host));
  if (hosts.length === 0)
    throw new Error(
      'There is no host yet that needs a certificate. Give APP_ORIGIN, or add a link domain in Setup first.',
    );
  process.stdout.write(nginxBlocks({ port, hosts: [...new Set(hosts)] }));
  return 0;
};

endWith(Promise.resolve().then(main), usage);
