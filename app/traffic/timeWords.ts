import type { Spent, TimeSpent } from '#core/queries';
import { count, lasted, percent } from '../theme/formats.ts';

/** For how long a frame or waiting page was in sight, as a sentence. */
export const stayedWords = ({ seconds, views }: Spent): string =>
  `In sight for ${lasted(seconds * 1000)} on average, as ${count(views)} ${views === 1 ? 'visit' : 'visits'} told.`;

/** For how long pages of one's own were read, as a sentence or two. */
export const readWords = ({ seconds, views, sent, scrolled }: NonNullable<TimeSpent['read']>): string =>
  [
    `Your pages were in sight for ${lasted(seconds * 1000)} on average, as ${count(views)} ${views === 1 ? 'view' : 'views'} told.`,
    ...(sent > 0 ? [`${percent(scrolled / sent)} of those who came by a link scrolled.`] : []),
  ].join(' ');
