import { ulidAlphabet } from '#core/catalogue';
import { connect } from 'node:net';

/** Requests of a connection that are under way at the same time. */
const inFlight = 16;

/**
 * Sends requests over a few connections as fast as they are answered, until the time is over; gives how many were answered.
 * A connection that the server closes is opened anew.
 *
 * @param request bytes of the n-th request
 */
export const flood = async (
  port: number,
  request: (n: number) => string,
  { connections = 4, ms }: { readonly connections?: number; readonly ms: number },
): Promise<number> => {
  const until = Date.now() + ms;
  let sent = 0;
  let answered = 0;
  const once = (): Promise<void> =>
    new Promise((resolve) => {
      const socket = connect(port, '127.0.0.1');
      let waiting = 0;
      const fill = () => {
        if (Date.now() >= until) {
          socket.destroy();
          return;
        }
        let bytes = '';
        for (; waiting < inFlight; waiting++) bytes += request(sent++);
        if (bytes !== '') socket.write(bytes, 'latin1');
      };
      socket.setEncoding('latin1').setTimeout(5000, () => socket.destroy());
      socket.on('connect', fill);
      socket.on('data', (text: string) => {
        const answers = text.split('HTTP/1.1 ').length - 1;
        answered += answers;
        waiting = Math.max(0, waiting - answers);
        fill();
      });
      socket.on('error', () => undefined);
      socket.on('close', () => resolve());
    });
  const lane = async (): Promise<void> => {
    while (Date.now() < until) await once();
  };
  await Promise.all(Array.from({ length: connections }, lane));
  return answered;
};

/** The anonymous addresses of a server, each with requests for it. */
export const anonymous = (host: string, pixelKey: string, link: string) => {
  const get = (path: string, name = host) =>
    `GET ${path} HTTP/1.1\r\nHost: ${name}\r\nUser-Agent: Mozilla/5.0 Firefox/140.0\r\n\r\n`;
  const post = (path: string, body: string) =>
    `POST ${path} HTTP/1.1\r\nHost: ${host}\r\nContent-Length: ${body.length}\r\n\r\n${body}`;
  return {
    hop: (n: number) => get(`/kit?n=${n}`),
    'unknown key': (n: number) => get(`/postback/${String(n).padStart(30, 'k')}?click=A&amount=9`),
    pixel: (n: number) => get(`/pixel/${pixelKey}.gif?txn=${n}`),
    beacon: (n: number) =>
      post(
        '/beacon',
        JSON.stringify({ event: 'click', click: clickNow(n), link, page: 'https://nightledge.example/' }),
      ),
    'unknown slug': (n: number) => get(`/nothing-${n}`),
    'unknown host': (n: number) => get(`/kit?n=${n}`, `h${n % 1000}.example`),
  };
};

const clickNow = (n: number): string => {
  let text = '';
  for (let at = Date.now(), i = 0; i < 10; i++, at = Math.floor(at / 32))
    text = (ulidAlphabet[at % 32] ?? '') + text;
  return text + String(n).padStart(16, '0');
};
