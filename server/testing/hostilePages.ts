import type { Socket } from 'node:net';
import { createServer } from 'node:net';

/**
 * Answers as hostile or broken servers do, one way for each path, in a process of its own; prints its port. What an answer
 * does is written to the socket as it is, since no server of HTTP would do it.
 */
const html = (body: string, more = ''): string =>
  `HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n${more}Content-Length: ${Buffer.byteLength(body)}\r\nConnection: close\r\n\r\n${body}`;
const redirect = (to: string): string =>
  `HTTP/1.1 302 Found\r\nLocation: ${to}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n`;
const head = 'HTTP/1.1 200 OK\r\nContent-Type: text/html\r\n';
const picture = 'HTTP/1.1 200 OK\r\nContent-Type: image/png\r\n';

/** Writes something again and again until the other side has gone. */
const drip = (socket: Socket, text: string | (() => string), everyMs: number): void => {
  const timer = setInterval(() => socket.write(typeof text === 'string' ? text : text()), everyMs);
  socket.on('close', () => clearInterval(timer));
};

type Answer = string | ((socket: Socket, path: string) => void);

const answers: Readonly<Record<string, Answer>> = {
  // Known to have frozen a server: a search that costs the square of the script's length.
  'script-square': html(`<script>${'location.replace("a"'.repeat(6900)}</script>`),
  'script-spaces': html(`<script>${`location${' '.repeat(500)}`.repeat(250)}</script>`),
  'script-open': html(`<script>${'location="'.repeat(14_000)}</script>`),
  // Known to have frozen a server: the tree builder's list of formatting elements.
  'formatting-nested': html(
    Array.from({ length: 3500 }, (_, i) => `<b id=${i}><p>`).join('') + '</b>'.repeat(3500),
  ),
  'formatting-ib': html('<i><b></i>'.repeat(40_000)),
  'formatting-font': html('<font><p></font>'.repeat(30_000)),
  'formatting-attributes': html(
    Array.from({ length: 9000 }, (_, i) => `<b id=${i}>`).join('') + '<p>x</b>'.repeat(9000),
  ),
  'foster-parents': html('<table>x'.repeat(60_000)),
  'table-deep': html('<table><tr><td>'.repeat(30_000)),
  select: html('<select><option>'.repeat(30_000)),
  svg: html('<svg><foreignObject><p>'.repeat(20_000)),
  'divs-deep': html('<div>'.repeat(100_000)),
  nodes: html('<p>'.repeat(170_000)),
  attributes: html(`<p ${Array.from({ length: 60_000 }, (_, i) => `a${i}`).join(' ')}>`),
  'comments-open': html('<!--'.repeat(100_000)),
  entities: html('&amp'.repeat(120_000)),
  nul: html('\0'.repeat(400_000)),
  'title-long': html(`<title>${'not available '.repeat(30_000)}</title>`),
  'refresh-long': html(`<meta http-equiv=refresh content="${' '.repeat(400_000)}">`),
  'not-utf8': html('<title>\xff\xfe\xfd</title>'),
  'ten-megabytes': html('<div>x</div>'.repeat(900_000)),
  // Known to have ended a server: an answer of another protocol.
  'switching-101': 'HTTP/1.1 101 Switching Protocols\r\nUpgrade: tcp\r\nConnection: Upgrade\r\n\r\nhello',
  'endless-102': (socket) => drip(socket, 'HTTP/1.1 102 Processing\r\n\r\n', 20),
  'endless-100': (socket) => drip(socket, 'HTTP/1.1 100 Continue\r\n\r\n'.repeat(50), 20),
  'header-drip': (socket) => {
    socket.write('HTTP/1.1 200 OK\r\nX-Slow: ');
    drip(socket, 'a', 400);
  },
  'status-drip': (socket) => drip(socket, () => 'HTTP/1.1 200'.charAt(Math.floor(Math.random() * 12)), 400),
  silent: () => undefined,
  'closed-at-once': (socket) => void socket.destroy(),
  garbage: 'ceci n’est pas\r\n\r\n',
  'http-0.9': '<html>old</html>',
  'http-2': 'PRI * HTTP/2.0\r\n\r\nSM\r\n\r\n',
  'header-100k': `HTTP/1.1 200 OK\r\nX-Big: ${'a'.repeat(100_000)}\r\n\r\n`,
  'headers-many': `HTTP/1.1 200 OK\r\n${'X-A: b\r\n'.repeat(1500)}Content-Length: 0\r\n\r\n`,
  'body-drip': (socket) => {
    socket.write(`${head}\r\n<title>slow</title>`);
    drip(socket, 'x', 200);
  },
  'body-endless': (socket) => {
    socket.write(`${head}\r\n`);
    drip(socket, 'x'.repeat(60_000), 5);
  },
  'length-too-long': (socket) => socket.end(`${head}Content-Length: 5000\r\n\r\nshort`),
  'length-negative': `${head}Content-Length: -5\r\n\r\nx`,
  'length-twice': `${head}Content-Length: 5\r\nContent-Length: 6\r\n\r\nxxxxxx`,
  'chunk-bad': `${head}Transfer-Encoding: chunked\r\n\r\nzz\r\nx`,
  'chunks-endless': (socket) => {
    socket.write(`${head}Transfer-Encoding: chunked\r\n\r\n`);
    drip(socket, '1\r\nx\r\n', 10);
  },
  'trailers-endless': (socket) => {
    socket.write(`${head}Transfer-Encoding: chunked\r\n\r\n0\r\n`);
    drip(socket, 'X-T: y\r\n', 10);
  },
  'reset-in-body': (socket) => {
    socket.write(`${head}Content-Length: 5000\r\n\r\nabc`);
    setTimeout(() => socket.resetAndDestroy(), 50);
  },
  'status-999': 'HTTP/1.1 999 Odd\r\nContent-Length: 0\r\nConnection: close\r\n\r\n',
  'two-answers': `${redirect('/two-answers-end')}${redirect('http://evil.example/')}`,
  'cookies-many': `HTTP/1.1 200 OK\r\n${Array.from({ length: 300 }, (_, i) => `Set-Cookie: c${i}=${'v'.repeat(20)}; Domain=localhost\r\n`).join('')}Content-Length: 0\r\nConnection: close\r\n\r\n`,
  'cookie-odd': `HTTP/1.1 200 OK\r\nSet-Cookie: =;;;=; Expires=never; Domain=.; Path=\r\nSet-Cookie: ${'a'.repeat(9000)}\r\nContent-Length: 0\r\nConnection: close\r\n\r\n`,
  'redirect-grows': (socket, path) =>
    socket.end(redirect(`${path}${path.includes('?') ? '' : '?'}${'x'.repeat(900)}`)),
  'redirect-inside': redirect('http://[::7f00:1]/'),
  'redirect-file': redirect('file:///etc/passwd'),
  'redirect-nowhere': redirect('http://%zz/'),
  'redirect-long': redirect(`/${'y'.repeat(12_000)}`),
  'refresh-loop': html('<meta http-equiv=refresh content="0;url=/refresh-loop">'),
  'picture-short': (socket) => socket.end(`${picture}Content-Length: 5000\r\n\r\n\x89PNG`),
  'picture-chunked-short': (socket) => socket.end(`${picture}Transfer-Encoding: chunked\r\n\r\n5\r\n\x89PNG`),
  'picture-svg': 'HTTP/1.1 200 OK\r\nContent-Type: image/svg+xml\r\nContent-Length: 6\r\n\r\n<svg/>',
  'picture-html': 'HTTP/1.1 200 OK\r\nContent-Type: image/png+html\r\nContent-Length: 6\r\n\r\n<html>',
  'picture-none': `${picture}Content-Length: 0\r\nConnection: close\r\n\r\n`,
  'picture-endless': (socket) => {
    socket.write(`${picture}\r\n`);
    drip(socket, 'x'.repeat(60_000), 5);
  },
  'picture-whole': `${picture}Content-Length: 4\r\nConnection: close\r\n\r\n\x89PNG`,
};

const server = createServer((socket) => {
  let asked = '';
  socket.on('error', () => undefined);
  socket.setEncoding('latin1').on('data', (text: string) => {
    if (asked.includes('\r\n\r\n')) return;
    asked += text;
    const path = /^GET (\S+) /.exec(asked)?.[1];
    if (path === undefined || !asked.includes('\r\n\r\n')) return;
    const answer = answers[path.slice(1).split(/[?/]/, 1)[0] ?? ''];
    if (answer === undefined) socket.end('HTTP/1.1 404 Not Found\r\nContent-Length: 0\r\n\r\n');
    else if (typeof answer === 'string') socket.end(answer, 'latin1');
    else answer(socket, path);
  });
});
server.listen(0, '127.0.0.1', () => {
  const address = server.address();
  const port = typeof address === 'object' && address !== null ? address.port : 0;
  process.stdout.write(`${JSON.stringify({ port, paths: Object.keys(answers) })}\n`);
});
