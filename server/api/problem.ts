import type { Response } from 'express';

/** Answers with a problem document (RFC 9457). `detail` says what, where and what to do. */
export const sendProblem = (
  response: Response,
  status: number,
  title: string,
  detail: string,
  more: object = {},
): void => {
  response
    .status(status)
    .type('application/problem+json')
    .send(JSON.stringify({ type: 'about:blank', title, status, detail, ...more }));
};
