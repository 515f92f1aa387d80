import express from 'express';
import * as v from 'valibot';
import { check, firstProblem } from '#core/catalogue';
import { logPieceBytes, logReadingBody } from '#core/visits';
import type { AccessLogs } from '../accessLogs/index.ts';
import { LogProblem } from '../accessLogs/index.ts';
import type { DiskRoom } from '../diskRoom.ts';
import type { LinkTable } from '../feed/index.ts';
import { sendProblem } from './problem.ts';

export interface AccessLogParts {
  readonly accessLogs: AccessLogs;
  readonly table: LinkTable;
  readonly room: DiskRoom;
}

const fileBody = v.strictObject({ name: v.pipe(v.string(), v.minLength(1), v.maxLength(300)) });
const statusOf = { unknown: 404, busy: 409, order: 409, failed: 500 } as const;

/** `/api/access-logs`: access logs of other servers, brought in piece by piece. */
export const accessLogRoutes = ({ accessLogs, table, room }: AccessLogParts): express.Router => {
  const routes = express.Router();
  const json = express.json({ limit: '4kb' });

  const answer = async (response: express.Response, work: () => Promise<object>): Promise<void> => {
    try {
      response.json(await work());
    } catch (error) {
      if (!(error instanceof LogProblem)) throw error;
      sendProblem(response, statusOf[error.kind], 'Not read', error.message);
    }
  };

  routes.post('/', json, async (request, response) => {
    const body = check(logReadingBody, request.body);
    if (!body.ok) {
      sendProblem(response, 400, 'Not a reading', firstProblem(body));
      return;
    }
    const { host, dryRun } = body.value;
    if (host !== '' && !table.hosts.has(host))
      sendProblem(response, 400, 'Not one of your domains', 'Name the host of a link domain of yours.');
    else if (!dryRun && room.isLow)
      sendProblem(
        response,
        503,
        'Not kept',
        'The disk of the server is nearly full, and its last room is kept for postbacks. Nothing was brought in.',
      );
    else await answer(response, async () => ({ id: await accessLogs.begin(body.value) }));
  });

  routes.post('/:id/file', json, async (request, response) => {
    const body = check(fileBody, request.body);
    if (body.ok) await answer(response, () => accessLogs.file(request.params.id, body.value.name));
    else sendProblem(response, 400, 'Not a file', firstProblem(body));
  });

  routes.post('/:id/end', json, async (request, response) => {
    await answer(response, () => accessLogs.end(request.params.id));
  });

  routes.post('/:id/stop', json, async (request, response) => {
    await answer(response, () => {
      accessLogs.stop(request.params.id);
      return Promise.resolve({ ok: true });
    });
  });

  routes.post(
    '/:id',
    express.raw({ type: 'application/octet-stream', limit: logPieceBytes }),
    async (request: express.Request<{ id: string }>, response) => {
      const { at } = request.query;
      const body: unknown = request.body;
      if (typeof at !== 'string' || !/^\d{1,15}$/.test(at) || !(body instanceof Uint8Array)) {
        sendProblem(
          response,
          400,
          'Not a piece',
          'Send bytes as application/octet-stream, and in ?at= how many of the file lie before them.',
        );
        return;
      }
      await answer(response, () => accessLogs.piece(request.params.id, Number(at), new Uint8Array(body)));
    },
  );
  return routes;
};
