import { createServer } from 'node:http';
import express from 'express';
import { readConfig } from '../server/config.ts';
import { makeFernhop } from '../server/fernhop.ts';

/** What the hop is measured against, as a process of its own: a bare `node:http` server, or our handler in Express. */
const [mode = '', port = ''] = process.argv.slice(2);

const ready = (key: string) => process.stdout.write(`http://localhost:${port}/#key=${key}\n`);

const bare = () => {
  const headers = [
    'Location',
    'https://t.harrowmead.example/r?by=nl-4471&deal=2093&ref1=01M84BDPSKXE4HN0RD2V6W3PBC&ref2=&page=https%3A%2F%2Fpolehouse.example%2Fkits%2Fsaturn',
    'Content-Length',
    '0',
  ];
  createServer((_request, response) => {
    response.writeHead(307, headers);
    response.end();
  }).listen(Number(port), '127.0.0.1', () => ready('none'));
};

const inExpress = async () => {
  const fernhop = await makeFernhop(readConfig(process.env), () => undefined);
  const app = express();
  app.use((request, response) => {
    fernhop.server.emit('request', request, response);
  });
  app.listen(Number(port), '127.0.0.1', () => ready(fernhop.key.value));
  // What waits is on disk before it ends: the links it was filled with are wanted again.
  process.once('SIGTERM', () => void fernhop.close().then(() => process.exit(0)));
};

if (mode === 'bare') bare();
else await inExpress();
