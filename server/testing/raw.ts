import { connect } from 'node:net';

/** Sends bytes as they are over a connection of their own and gives the whole answer, each byte as one letter (Latin-1). */
export const sendRaw = (port: number, bytes: string | Buffer): Promise<string> =>
  new Promise((resolve, reject) => {
    const socket = connect(port, '127.0.0.1');
    let answer = '';
    socket.setEncoding('latin1').setTimeout(10_000, () => socket.destroy(new Error('no answer')));
    socket.on('data', (text: string) => (answer += text));
    // A server that refuses a request closes while it is still sent.
    socket.on('error', (error: NodeJS.ErrnoException) =>
      answer === '' && error.code !== 'ECONNRESET' && error.code !== 'EPIPE'
        ? reject(error)
        : resolve(answer),
    );
    socket.on('close', () => resolve(answer));
    socket.write(typeof bytes === 'string' ? Buffer.from(bytes, 'latin1') : bytes);
  });

/** The status of a raw answer; NaN where there is none. */
export const statusOf = (answer: string): number => Number(/^HTTP\/1\.1 (\d{3})/.exec(answer)?.[1]);

/** A header of a raw answer. */
export const headerOf = (answer: string, name: string): string | undefined =>
  new RegExp(`^${name}: (.*)\r$`, 'im').exec(answer.slice(0, answer.indexOf('\r\n\r\n') + 2))?.[1];
