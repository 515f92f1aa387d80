export { AnswersThread } from './answers.ts';
