import { randomBytes } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { closedPage, decide, readTarget } from '#core/hop';
import type { Host, LinkTable } from '../feed/index.ts';
import { answering, readyLink } from '../feed/index.ts';
import type { WaitingList } from '../waitingList.ts';
import { readBody } from './body.ts';
import { refuse } from './refuse.ts';

interface WaitingListParts {
  readonly table: LinkTable;
  readonly waitingList: WaitingList;
  readonly now: () => number;
}

/** The form of the HTML standard, near enough: one @, something on both sides, no spaces. */
const mailForm = /^[^\s@,;<>"]{1,64}@[^\s@,;<>"]{1,189}$/;
/** Most addresses one link may be left within a minute: more is a machine. */
const mostAMinute = 30;

/** Makes the handler of the form on a closed link's page. Gives false when no closed link asks for addresses there. */
export const makeWaitingListForm = ({ table, waitingList, now }: WaitingListParts) => {
  const recent = new Map<string, { minute: number; count: number }>();

  return async (request: IncomingMessage, response: ServerResponse, host: Host): Promise<boolean> => {
    const found = host.links.get(readTarget(request.url ?? '')?.path ?? '');
    // The form stands on the page that GET gave, which was the other link's where this one hands its visitors on.
    const link = found?.rare.archived ? answering(table, found) : found;
    const domain = link && (link.domain === host.domain.id ? host.domain : table.domains.get(link.domain));
    const ready = link && domain && readyLink(table, link, domain);
    if (!link || !ready) return false;
    const at = now();
    const visit = { at, source: '', query: '', country: '', device: 'desktop' as const, language: '' };
    const { branch } = decide(ready, { ...visit, visitor: '', returning: false });
    const answer = branch === 'before' || branch === 'after' ? ready[branch] : undefined;
    if (answer?.kind !== 'page' || !answer.askMail) return false;

    const minute = Math.floor(at / 60_000);
    const soFar = recent.get(link.id);
    const count = soFar?.minute === minute ? soFar.count + 1 : 1;
    recent.set(link.id, { minute, count });
    if (count > mostAMinute) {
      refuse(response, 429, 'Too many addresses at once. Try again in a minute.', { 'Retry-After': '60' });
      return true;
    }
    const form = new URLSearchParams((await readBody(request, 4096)) ?? '');
    const mail = (form.get('mail') ?? '').trim();
    if (!mailForm.test(mail) || form.get('consent') !== 'yes') {
      refuse(response, 400, 'Go back, give a mail address and tick the box.');
      return true;
    }
    const consent = answer.consent.trim() || 'You may write to me about this.';
    try {
      await waitingList.keep({ at, link: link.id, mail, consent });
    } catch {
      refuse(response, 503, 'Your address cannot be kept now. Go back and try again later.', {
        'Retry-After': '600',
      });
      return true;
    }
    const page = closedPage(
      answer,
      randomBytes(16).toString('base64'),
      host.domain.host,
      'Thank you. We will write.',
    );
    response.writeHead(200, {
      'Content-Type': 'text/html; charset=utf-8',
      'Cache-Control': 'no-store',
      'Content-Security-Policy': page.policy,
      'X-Content-Type-Options': 'nosniff',
      'X-Robots-Tag': 'noindex, nofollow',
      'Content-Length': String(Buffer.byteLength(page.html)),
    });
    response.end(page.html);
    return true;
  };
};
