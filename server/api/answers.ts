import express from 'express';
import * as v from 'valibot';
import { check, firstProblem } from '#core/catalogue';
import type { AnswersThread } from '../answers/index.ts';
import type { Columns } from '../columns/index.ts';
import { sendProblem } from './problem.ts';

const askBody = v.strictObject({
  question: v.pipe(v.string(), v.maxLength(50)),
  args: v.pipe(v.array(v.unknown()), v.maxLength(10)),
});

/** `/api/ask` and `/api/columns`: for browsers that do not hold the journal, or not yet. */
export const answerRoutes = ({
  answers,
  columns,
}: {
  readonly answers: AnswersThread;
  readonly columns: Columns;
}): express.Router => {
  const routes = express.Router();

  routes.post('/ask', express.json({ limit: '64kb' }), async (request, response) => {
    const body = check(askBody, request.body);
    if (!body.ok) {
      sendProblem(response, 400, 'Not a question', firstProblem(body));
      return;
    }
    const { question, args } = body.value;
    try {
      response.type('text/plain').send(await answers.ask(question, args));
    } catch (error) {
      sendProblem(response, 503, 'Not answered', error instanceof Error ? error.message : String(error));
    }
  });

  routes.get('/columns', (request, response) => {
    const [first] = Object.keys(request.query);
    if (first !== undefined) {
      sendProblem(response, 400, 'Bad parameter', `"${first}" is nothing that this call takes.`);
      return;
    }
    response.json({ parts: columns.parts });
    // Whoever asks next finds what has come since.
    void columns.make();
  });
  routes.get('/columns/:name', (request, response) => {
    const path = columns.pathOf(request.params.name);
    if (path === undefined)
      sendProblem(response, 404, 'Not there', 'Ask /api/columns which files there are.');
    else response.type('application/octet-stream').sendFile(path, { dotfiles: 'allow' });
  });
  return routes;
};
