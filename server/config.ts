import * as v from 'valibot';

const port = v.pipe(
  v.string(),
  v.regex(/^\d{1,5}$/, 'is no port number'),
  v.transform(Number),
  v.maxValue(65_535, 'is no port number'),
);

const variables = v.object({
  PORT: v.optional(port, '4600'),
  HOST: v.optional(v.pipe(v.string(), v.minLength(1)), '127.0.0.1'),
  APP_ORIGIN: v.optional(
    v.pipe(
      v.string(),
      v.check(
        (origin) => URL.canParse(origin) && new URL(origin).origin === origin,
        'is no origin such as https://desk.nightledge.example',
      ),
      v.check(
        (origin) => origin.startsWith('https://') || new URL(origin).hostname === 'localhost',
        'must begin with https:// unless it is localhost',
      ),
    ),
  ),
  FERNHOP_KEY: v.optional(
    v.pipe(v.string(), v.regex(/^[\x21-\x7e]{16,200}$/, 'needs 16 to 200 visible characters')),
  ),
  DATA_DIR: v.optional(v.pipe(v.string(), v.minLength(1)), './data'),
  TRUST_PROXY: v.optional(
    v.pipe(
      v.string(),
      v.transform((list) => list.split(/[\s,]+/).filter(Boolean)),
    ),
    '',
  ),
  GEO_DB: v.optional(v.pipe(v.string(), v.minLength(1))),
  HOSTING_NETWORKS: v.optional(v.pipe(v.string(), v.minLength(1))),
  GEO_HEADER: v.optional(
    v.pipe(v.string(), v.regex(/^[A-Za-z0-9-]+$/, 'is no header name'), v.toLowerCase()),
  ),
  RECORDS_PER_MINUTE: v.optional(
    v.pipe(
      v.string(),
      v.regex(/^\d{1,9}$/, 'is no number of requests'),
      v.transform(Number),
      v.minValue(1, 'is no number of requests'),
    ),
    '3000',
  ),
  DISK_RESERVE_MB: v.optional(
    v.pipe(v.string(), v.regex(/^\d{1,9}$/, 'is no number of megabytes'), v.transform(Number)),
    '200',
  ),
  STANDINS: v.optional(
    v.pipe(
      v.picklist(['0', '1'], 'is 0 or 1'),
      v.transform((value) => value === '1'),
    ),
    '0',
  ),
});

/** The server's configuration. */
export interface Config {
  readonly port: number;
  readonly host: string;
  readonly appOrigin: string;
  /** The bearer key of the admin API, when given from outside. */
  readonly key: string | undefined;
  readonly dataDir: string;
  /** Addresses and networks of proxies whose forwarding headers count. */
  readonly trustProxy: readonly string[];
  readonly geoDb: string | undefined;
  /** A list of hosting networks over the table that ships; `none` where they are not looked up. */
  readonly hostingNetworks: string | undefined;
  readonly geoHeader: string | undefined;
  /** Most anonymous requests of one address that are written down within a minute. */
  readonly recordsPerMinute: number;
  /** Megabytes of the disk, at least, that are kept for postbacks; 0 keeps nothing back. */
  readonly diskReserveMb: number;
  readonly standins: boolean;
}

const ours = /^(?:FERNHOP_|GEO_|TRUST_|DISK_|RECORDS_|APP_ORIGIN$|DATA_DIR$|STANDINS$)/;

/**
 * Reads the configuration from the environment.
 *
 * @throws Error with one clear line when a value is bad or a variable of ours is unknown
 */
export const readConfig = (env: Readonly<Record<string, string | undefined>>): Config => {
  const unknown = Object.keys(env).find((name) => ours.test(name) && !Object.hasOwn(variables.entries, name));
  if (unknown !== undefined)
    throw new Error(
      `${unknown} is no setting of Fernhop. Known are ${Object.keys(variables.entries).join(', ')}.`,
    );
  const given = Object.fromEntries(
    Object.entries(env).filter(([, value]) => value !== undefined && value !== ''),
  );
  const result = v.safeParse(variables, given);
  if (!result.success) {
    const [issue] = result.issues;
    throw new Error(`${v.getDotPath(issue) ?? ''}=${String(issue.input)} ${issue.message}.`);
  }
  const o = result.output;
  return {
    port: o.PORT,
    host: o.HOST,
    appOrigin: o.APP_ORIGIN ?? `http://localhost:${o.PORT}`,
    key: o.FERNHOP_KEY,
    dataDir: o.DATA_DIR,
    trustProxy: o.TRUST_PROXY,
    geoDb: o.GEO_DB,
    hostingNetworks: o.HOSTING_NETWORKS,
    geoHeader: o.GEO_HEADER,
    recordsPerMinute: o.RECORDS_PER_MINUTE,
    diskReserveMb: o.DISK_RESERVE_MB,
    standins: o.STANDINS,
  };
};
