export { AnswersThread } from './answers.ts';
export { FollowedFolder } from './followedFolder.ts';
