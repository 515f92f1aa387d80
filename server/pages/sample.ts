import { originOfHost } from '#core/catalogue';
import * as v from 'valibot';
import type { Sent } from './ask.ts';
import { ask, bytesOf, wordsOf } from './ask.ts';
import type { Bounds } from './guard.ts';

/** A sample postback: the network whose key it is sent with, the link domain it is sent to, and what is sent. */
export const sampleBody = v.strictObject({
  network: v.pipe(v.string(), v.maxLength(60)),
  host: v.pipe(v.string(), v.maxLength(253)),
  via: v.picklist(['GET', 'form', 'JSON']),
  /** What stands after `?`, or the body of a POST. */
  text: v.pipe(v.string(), v.maxLength(12_000)),
});
export type Sample = v.InferOutput<typeof sampleBody>;

/** What the address answered; a status of 0 where nothing did. */
export interface SampleAnswer {
  readonly status: number;
  readonly milliseconds: number;
  readonly says: string;
}

const types = { form: 'application/x-www-form-urlencoded', JSON: 'application/json' };

/** Sends a sample over the network to where a real one would go, by name, certificate and proxy. */
export const sendSample = async (
  { host, via, text }: Sample,
  key: string,
  { port, token }: { readonly port: number; readonly token: string },
  requestMs: number,
): Promise<SampleAnswer> => {
  const address = `${originOfHost(host, port)}/postback/${key}`;
  const bounds: Bounds = { localPorts: [port] };
  const began = performance.now();
  const took = () => Math.round(performance.now() - began);
  const sent: Sent =
    via === 'GET'
      ? { headers: { 'Fernhop-Sample': token } }
      : { method: 'POST', body: text, headers: { 'Fernhop-Sample': token, 'Content-Type': types[via] } };
  try {
    const url = new URL(via === 'GET' ? `${address}?${text}` : address);
    const answer = await ask(url, bounds, requestMs, sent);
    const { bytes } = await bytesOf(answer, 500);
    return { status: answer.statusCode ?? 0, milliseconds: took(), says: bytes.toString('utf8') };
  } catch (error) {
    return { status: 0, milliseconds: took(), says: wordsOf(error) };
  }
};
