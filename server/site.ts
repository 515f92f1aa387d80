import { present } from '#core/catalogue';
import { randomBytes } from 'node:crypto';
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import express from 'express';
import staticFiles from 'express-static-gzip';
import helmet from 'helmet';
import { sendProblem } from './api/problem.ts';

/** Where the built application lies, whether the server runs built or from its source. */
const findApp = (): string | undefined => {
  const here = dirname(fileURLToPath(import.meta.url));
  return [join(here, '../app'), join(here, '../dist/app')].find((folder) =>
    existsSync(join(folder, 'index.html')),
  );
};

/**
 * The Express side: the application's files and the admin API under one content security policy that allows
 * nothing from elsewhere.
 *
 * @param secure the application is reached by https
 */
export const makeSite = (
  api: express.Router,
  secure: boolean,
  appHosts: { readonly port: number },
): express.Express => {
  const site = express();
  site.disable('x-powered-by');
  site.set('query parser', 'simple');

  site.use((_request, response, next) => {
    nonces.set(response, randomBytes(16).toString('base64'));
    next();
  });
  site.use(
    helmet({
      contentSecurityPolicy: {
        useDefaults: false,
        directives: {
          defaultSrc: ["'none'"],
          scriptSrc: ["'self'"],
          // The theme's colours are one style element made at run time; it carries the page's nonce.
          styleSrc: ["'self'", (_request, response) => `'nonce-${nonceOf(response)}'`],
          styleSrcAttr: ["'none'"],
          fontSrc: ["'self'"],
          // `blob:` are pictures the server fetched for the person.
          imgSrc: ["'self'", 'data:', 'blob:'],
          connectSrc: ["'self'"],
          workerSrc: ["'self'"],
          manifestSrc: ["'self'"],
          baseUri: ["'none'"],
          formAction: ["'none'"],
          frameAncestors: ["'none'"],
        },
      },
      // On plain http both would make localhost unreachable; the CSP has no upgrade for the same reason.
      strictTransportSecurity: secure ? { maxAge: 31_536_000 } : false,
      crossOriginResourcePolicy: { policy: 'same-origin' },
      referrerPolicy: { policy: 'no-referrer' },
    }),
  );

  site.use((request, response, next) => {
    // Another name would be another database in the browser.
    if (request.hostname === '127.0.0.1' && !request.path.startsWith('/api/') && request.method === 'GET')
      response.redirect(307, `http://localhost:${appHosts.port}${request.path}`);
    else next();
  });
  site.use('/api', (_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  site.use('/api', api);

  const folder = findApp();
  const page = folder === undefined ? undefined : readFileSync(join(folder, 'index.html'), 'utf8');
  if (folder !== undefined)
    site.use(
      // The build left each text file compressed beside itself.
      staticFiles(folder, {
        enableBrotli: true,
        orderPreference: ['br', 'gz'],
        index: false,
        serveStatic: {
          setHeaders: (response, path) => {
            if (/[\\/]assets[\\/]/.test(path))
              response.setHeader('Cache-Control', 'public, max-age=31536000, immutable');
          },
        },
      }),
    );
  site.use((request, response) => {
    if (request.method !== 'GET' && request.method !== 'HEAD')
      sendProblem(response, 405, 'Not allowed', 'Pages are read by GET.');
    else if (/\.[a-z0-9]{1,5}$/i.test(request.path) || page === undefined)
      sendProblem(
        response,
        404,
        'Not found',
        page === undefined ? 'Build the application first: npm run build.' : 'There is no such file.',
      );
    else
      response
        .set('Cache-Control', 'no-cache')
        .type('html')
        .send(page.replaceAll('__NONCE__', nonceOf(response)));
  });
  return site;
};

const nonces = new WeakMap<object, string>();
const nonceOf = (response: object): string => present(nonces.get(response), 'nonce of this page');
