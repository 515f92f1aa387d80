import type { HopChoices } from '#core/catalogue';
import { escapeHtml, paragraphs, scriptText } from './html.ts';

/** A page of ours and the content security policy that lets it do just what it does. */
export interface Page {
  readonly html: string;
  readonly policy: string;
}

const look = `body{margin:0;font:18px/1.5 Georgia,serif;color:#1f2a25;background:#f4f1e8}
main{max-width:34em;margin:14vh auto;padding:0 24px}
a.go,button{display:inline-block;padding:.5em 1.2em;border:0;border-radius:12px 3px;font:inherit;color:#fdfbf5;background:#2c6a4c;text-decoration:none}
input{font:inherit;padding:.45em .7em;border:1px solid #56625a;border-radius:12px 3px;max-width:100%;box-sizing:border-box}
label{display:block;margin:.8em 0}
img{max-width:100%;max-height:45vh}
.bar{height:6px;background:#d9d2bf;border-radius:4px 1px;overflow:hidden;margin:1.4em 0}
.bar i{display:block;height:100%;background:#2c6a4c;transform-origin:left}
@keyframes run{from{transform:scaleX(0)}to{transform:scaleX(1)}}
@media (prefers-color-scheme:dark){body{color:#e6e9e1;background:#121a16}}`;
const frameLook = `html,body{margin:0;height:100%;overflow:hidden}iframe{border:0;display:block;width:100%;height:100%}`;

interface Head {
  readonly title: string;
  readonly choices: Pick<HopChoices, 'hideReferrer' | 'robots' | 'scripts'>;
  /** Made fresh for each response; styles and scripts of ours carry it. */
  readonly nonce: string;
  readonly style: string;
  /** More of the head, escaped already. */
  readonly more?: string;
}

const whole = ({ title, choices, nonce, style, more = '' }: Head, body: string): string =>
  `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
${choices.robots === 'index' ? '' : `<meta name="robots" content="${choices.robots}">\n`}${
    choices.hideReferrer ? '<meta name="referrer" content="no-referrer">\n' : ''
  }<title>${escapeHtml(title)}</title>
<style nonce="${nonce}">${style}</style>
${more}${choices.scripts.map((address) => `<script nonce="${nonce}" async src="${escapeHtml(address)}"></script>\n`).join('')}</head>
<body>
${body}
</body>
</html>
`;

/** The visit a page of ours is shown to, so that it can tell for how long. */
export interface StayOf {
  readonly link: string;
  readonly click: string;
}

/** Tells the link's own domain, whenever the page goes out of sight, for how long it was in sight by then. */
const stayScript = ({ link, click }: StayOf): string =>
  `(()=>{let s=0,t=performance.now(),d=-1;const w=()=>{if(!document.hidden){t=performance.now();return}` +
  `s+=(performance.now()-t)/1e3;const n=Math.round(s);if(n===d)return;d=n;` +
  `navigator.sendBeacon('/beacon',JSON.stringify({event:'time',link:${scriptText(link)},click:${scriptText(click)},page:location.origin+location.pathname,seconds:n}))};` +
  `document.addEventListener('visibilitychange',w)})()`;

const policyOf = (
  nonce: string,
  scripts: readonly string[],
  inline: boolean,
  tells: boolean,
  more: readonly string[] = [],
  picture = '',
): string => {
  const originsOf = (addresses: readonly string[]) =>
    [...new Set(addresses.map((address) => new URL(address).origin))].join(' ');
  const origins = originsOf(scripts);
  const pictures = originsOf(picture === '' ? scripts : [...scripts, picture]);
  return [
    `default-src 'none'`,
    `style-src 'nonce-${nonce}'`,
    ...(inline || origins !== '' ? [`script-src 'nonce-${nonce}'`] : []),
    ...(origins === '' && !tells
      ? []
      : [`connect-src ${[...(tells ? [`'self'`] : []), origins].join(' ').trim()}`]),
    ...(pictures === '' ? [] : [`img-src ${pictures}`]),
    ...more,
    `base-uri 'none'`,
    `frame-ancestors 'none'`,
  ].join('; ');
};

const refreshTag = (seconds: number, location: string): string =>
  `<meta http-equiv="refresh" content="${seconds};url=${escapeHtml(location)}">`;

/**
 * A page that sends the visitor on: at once or after waiting, by meta refresh or by script (with a refresh for
 * browsers without), or a frame around the destination. Every value is escaped, and without scripts it works the same.
 *
 * @param nonce fresh for each response
 * @param host shown as the title where nothing better is
 * @param stay whose stay a page tells on which visitors stay; undefined where it is not to tell
 */
export const hopPage = (
  choices: HopChoices,
  location: string,
  nonce: string,
  host: string,
  stay?: StayOf,
): Page => {
  const { page, wait, scripts } = choices;
  const staying = stay ? `<script nonce="${nonce}">${stayScript(stay)}</script>\n` : '';
  if (page === 'frame') {
    const title = choices.frameTitle.trim() || host;
    return {
      html: whole(
        { title, choices, nonce, style: frameLook, more: staying },
        `<iframe src="${escapeHtml(location)}" title="${escapeHtml(title)}" allow="payment; fullscreen"></iframe>`,
      ),
      policy: policyOf(nonce, scripts, staying !== '', staying !== '', ['frame-src http: https:']),
    };
  }
  const { seconds } = wait;
  const byScript = page === 'script';
  const refresh = refreshTag(seconds, location);
  const go = `location.replace(${scriptText(location)})`;
  const tells = seconds > 0 && staying !== '';
  const onward = byScript
    ? `<script nonce="${nonce}">${seconds > 0 ? `setTimeout(()=>${go},${seconds * 1000})` : go}</script>\n<noscript>${refresh}</noscript>\n`
    : `${refresh}\n`;
  const more = tells ? onward + staying : onward;
  // What is read while waiting is on no page that goes on at once; the form does not show it either.
  const words =
    seconds === 0 ? '' : wait.text.trim() === '' ? '<p>You are being sent on.</p>' : paragraphs(wait.text);
  const picture = seconds > 0 && URL.canParse(wait.picture ?? '') ? (wait.picture ?? '') : '';
  const shown = picture === '' ? '' : `<p><img src="${escapeHtml(picture)}" alt=""></p>\n`;
  const button = seconds > 0 && wait.button.trim() !== '' ? wait.button : 'Go on';
  const bar = seconds > 0 && wait.progress ? '\n<div class="bar"><i></i></div>' : '';
  const style = bar === '' ? look : `${look}\n.bar i{animation:run ${seconds}s linear}`;
  return {
    html: whole(
      { title: host, choices, nonce, style, more },
      `<main>\n${shown}${words}${bar}\n<p><a class="go" rel="nofollow" href="${escapeHtml(location)}">${escapeHtml(button)}</a></p>\n</main>`,
    ),
    policy: policyOf(nonce, scripts, byScript || tells, tells, [], picture),
  };
};

/** What a link shows while it is closed or after it was archived. */
export interface Closed {
  readonly words: string;
  readonly askMail: boolean;
  /** What the visitor agrees to by leaving an address. */
  readonly consent: string;
}

/**
 * The page of a closed link, with a field for a mail address where it asks for one.
 *
 * @param thanks shown in place of the field after an address was left
 */
export const closedPage = (closed: Closed, nonce: string, host: string, thanks = ''): Page => {
  const field = closed.askMail
    ? `<form method="post">
<label>Your mail address<br><input type="email" name="mail" required maxlength="254" autocomplete="email"></label>
<label><input type="checkbox" name="consent" value="yes" required> ${escapeHtml(closed.consent.trim() || 'You may write to me about this.')}</label>
<button type="submit">Tell me</button>
</form>`
    : '';
  return {
    html: whole(
      {
        title: host,
        choices: { hideReferrer: false, robots: 'noindex, nofollow', scripts: [] },
        nonce,
        style: look,
      },
      `<main>\n${paragraphs(closed.words)}\n${thanks === '' ? field : `<p role="status">${escapeHtml(thanks)}</p>`}\n</main>`,
    ),
    policy: policyOf(nonce, [], false, false, ["form-action 'self'"]),
  };
};
