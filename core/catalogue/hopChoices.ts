import * as v from 'valibot';
import { parameter, text, webAddress } from './fields.ts';

/** The redirect types that are answered without a page. */
export const redirectStatuses = [301, 302, 307, 308] as const;
/** What is answered instead of a bare redirect: nothing, or a page that sends the visitor on in its own way. */
export const pageKinds = ['none', 'refresh', 'script', 'frame'] as const;
/** What crawlers are told of the hop; `index` tells them nothing. */
export const robotsHints = ['noindex, nofollow', 'noindex', 'index'] as const;

/** True for an address a page of ours may load a script from. */
export const isScriptAddress = (address: string): boolean =>
  /^https:\/\/[^\s"'<>;,@]+$/i.test(address) && URL.canParse(address);

const scriptAddress = v.pipe(
  text(500),
  v.check(isScriptAddress, 'A measuring script is an https address that a browser can open, without spaces.'),
);

const wait = v.strictObject({
  /** 0 for no waiting page. */
  seconds: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(0),
    v.maxValue(120, 'Nobody waits longer than 120 seconds.'),
  ),
  text: text(2000),
  /** Words of the button that goes on at once; empty for none. */
  button: text(80),
  progress: v.boolean(),
  /** Address of a picture shown above the words; the visitor's browser loads it from there. */
  picture: v.exactOptional(
    v.pipe(
      webAddress(500, 'A picture'),
      v.check((address) => !/[;,]/.test(address), 'The address of a picture holds no ; and no comma here.'),
    ),
  ),
});

const entries = {
  status: v.picklist(redirectStatuses, 'The redirect type is 301, 302, 307 or 308.'),
  cache: v.boolean(),
  hideReferrer: v.boolean(),
  pass: v.union([v.picklist(['none', 'all']), v.pipe(v.array(parameter), v.maxLength(50))]),
  page: v.picklist(pageKinds),
  /** A page hop goes by way of a second page of ours, for browsers that do not heed the referrer policy. */
  twice: v.boolean(),
  wait,
  frameTitle: text(120),
  /** The person's own measuring scripts, loaded by page hops only. */
  scripts: v.pipe(v.array(scriptAddress), v.maxLength(5)),
  robots: v.picklist(robotsHints),
};

/** How a link hops where it does not follow its domain. */
export const ownHopChoices = v.partial(v.strictObject(entries));

const noWait = { seconds: 0, text: '', button: '', progress: true };

/** How the links of a domain hop. */
export const hopChoices = v.strictObject({
  ...entries,
  page: v.optional(entries.page, 'none'),
  twice: v.optional(entries.twice, false),
  wait: v.optional(wait, noWait),
  frameTitle: v.optional(entries.frameTitle, ''),
  scripts: v.optional(entries.scripts, []),
  robots: v.optional(entries.robots, 'noindex, nofollow'),
});

export const relValues = ['sponsored', 'nofollow', 'ugc'] as const;

export const marks = v.strictObject({
  rel: v.array(v.picklist(relValues)),
  newTab: v.boolean(),
  title: text(200),
});

export type HopChoices = v.InferOutput<typeof hopChoices>;
export type Wait = v.InferOutput<typeof wait>;
export type Marks = v.InferOutput<typeof marks>;
