import { array, number, object, string, ValidationError } from 'yup';
import { parse } from 'yaml';
import { readFileSync } from 'node:fs';
import { isIP } from 'node:net';
import { StartTrouble, words } from '../trouble.ts';

/** Everything that can be set before a start. Names in the file; in the environment ANTHEMION_ and upper case with _. */
export interface Settings {
  /** Folder of the database, keys and back-ups. */
  readonly data: string;
  /** Address it listens on. */
  readonly listen: string;
  readonly port: number;
  /** How browsers reach it, such as https://fabric.example.net; empty = http://localhost and its port. */
  readonly publicUrl: string;
  /** Further host names it answers to. */
  readonly hosts: readonly string[];
  /** Certificate chain and key, PEM files; both or none. */
  readonly tlsCert: string;
  readonly tlsKey: string;
  /** Addresses or prefixes of proxies whose X-Forwarded-* headers are believed. */
  readonly trustedProxies: readonly string[];
  readonly logLevel: string;
  /** A session ends when nothing is asked for so long, and in any case after so long. */
  readonly sessionIdleMinutes: number;
  readonly sessionHours: number;
  /** Failed sign-ins a minute and address. */
  readonly signInTries: number;
  /** Failed sign-ins in a quarter of an hour and account, wherever they come from. */
  readonly accountTries: number;
  /** Bearer token of /metrics; empty = only this machine may read it. */
  readonly metricsToken: string;
  /** Seconds between two readings of a switch's state (ports, sessions, neighbours), and of its text. */
  readonly readStateSeconds: number;
  readonly readTextSeconds: number;
  /** Switches read at the same time. */
  readonly readAtOnce: number;
}

/** What each setting means, in the words of the table in docs/operations.md. */
export const SETTINGS_TABLE: readonly (readonly [keyof Settings, string])[] = [
  ['data', 'Folder of the database, the sealing key and the back-ups; made for its owner only'],
  ['listen', 'Address to listen on; other than loopback only with TLS of its own or a trusted proxy'],
  ['port', 'TCP port'],
  [
    'publicUrl',
    'How browsers reach it, such as `https://fabric.example.net`; with https cookies are Secure and HSTS is sent',
  ],
  ['hosts', 'Further host names it answers to, besides the one of `publicUrl` and localhost'],
  ['tlsCert', 'Certificate chain, PEM; read again on SIGHUP'],
  ['tlsKey', 'Its private key, PEM'],
  ['trustedProxies', 'Addresses or prefixes of proxies whose `X-Forwarded-For` and `-Proto` are believed'],
  ['logLevel', '`silent`, `error`, `warn`, `info` or `debug`'],
  ['sessionIdleMinutes', 'A session ends after so many minutes without a request'],
  ['sessionHours', 'A session ends after so many hours in any case'],
  ['signInTries', 'Failed sign-ins a minute and address'],
  ['accountTries', 'Failed sign-ins in 15 minutes and account, wherever they come from'],
  ['metricsToken', 'Bearer token that opens `/metrics`; without one, this machine only'],
  ['readStateSeconds', 'Seconds between two readings of a switch’s ports, sessions and neighbours'],
  [
    'readTextSeconds',
    'Seconds between two readings of its whole text; a text whose size or time changed is read at once',
  ],
  ['readAtOnce', 'Switches read at the same time'],
];

const addressOrPrefix = string()
  .test('address', 'an address or prefix such as 10.0.0.5 or 10.0.0.0/24 is expected', (v) => {
    const [a = '', bits] = (v ?? '').split('/');
    return isIP(a) !== 0 && (bits === undefined || /^\d{1,3}$/.test(bits));
  })
  .required();
const hostName = string()
  .matches(/^[A-Za-z0-9.:[\]-]{1,253}$/, 'a host name is expected')
  .required();
const whole = (from: number, to: number) =>
  number().integer('a whole number is expected').min(from, `at least ${from}`).max(to, `at most ${to}`);

const schema = object({
  data: string().default('.anthemion/server'),
  listen: string()
    .test('ip', 'an IP address is expected', (v) => isIP(v ?? '') !== 0)
    .default('127.0.0.1'),
  port: whole(0, 65535).default(4600),
  publicUrl: string()
    .test(
      'url',
      'an address such as https://fabric.example.net is expected',
      (v) => v === '' || urlOf(v ?? '') !== null,
    )
    .default(''),
  hosts: array(hostName).default([]),
  tlsCert: string().default(''),
  tlsKey: string().default(''),
  trustedProxies: array(addressOrPrefix).default([]),
  logLevel: string().oneOf(['silent', 'error', 'warn', 'info', 'debug']).default('info'),
  sessionIdleMinutes: whole(1, 24 * 60).default(60),
  sessionHours: whole(1, 24 * 7).default(12),
  signInTries: whole(1, 10_000).default(10),
  accountTries: whole(1, 10_000).default(30),
  metricsToken: string()
    .matches(/^$|^\S{16,200}$/, 'a token has 16 characters or more, without spaces')
    .default(''),
  readStateSeconds: whole(1, 3600).default(60),
  readTextSeconds: whole(1, 86_400).default(600),
  readAtOnce: whole(1, 256).default(8),
}).noUnknown(true, ({ unknown }) => `there is no setting ${String(unknown)}`);

function urlOf(text: string): URL | null {
  try {
    const url = new URL(text);
    return /^https?:$/.test(url.protocol) && url.pathname === '/' && url.search === '' ? url : null;
  } catch {
    return null;
  }
}

export const envName = (key: keyof Settings): string =>
  `ANTHEMION_${key.replaceAll(/[A-Z]/g, (c) => `_${c}`).toUpperCase()}`;
const LISTS = new Set<keyof Settings>(['hosts', 'trustedProxies']);

/** What a setting is where nobody sets it. */
export const DEFAULTS = schema.getDefault() as Settings;

/**
 * Settings of the file that ANTHEMION_SETTINGS names (YAML), overridden by the environment. Throws StartTrouble that names
 * the setting and where it was set.
 */
export function readSettings(env: NodeJS.ProcessEnv): Settings {
  const path = env['ANTHEMION_SETTINGS'];
  const file = path === undefined || path === '' ? {} : settingsFile(path);
  const keys = SETTINGS_TABLE.map(([key]) => key);
  const over = Object.fromEntries(
    keys.flatMap((key) => {
      const said = env[envName(key)];
      if (said === undefined) return [];
      return [
        [
          key,
          LISTS.has(key)
            ? said
                .split(',')
                .map((s) => s.trim())
                .filter((s) => s !== '')
            : said,
        ],
      ];
    }),
  );
  let settings: Settings;
  try {
    settings = schema.validateSync({ ...file, ...over }, { abortEarly: true, stripUnknown: false }) as Settings;
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const key = (/^\w+/.exec(error.path ?? '')?.[0] ?? '') as keyof Settings;
    const where =
      key in over
        ? envName(key)
        : path === undefined
          ? 'The settings'
          : `${path}${key === ('' as never) ? '' : `, ${key}`}`;
    throw new StartTrouble(`${where}: ${error.message}.`);
  }
  if ((settings.tlsCert === '') !== (settings.tlsKey === ''))
    throw new StartTrouble('tlsCert and tlsKey belong together: set both or none.');
  if (!isLoopback(settings.listen) && settings.tlsCert === '' && settings.trustedProxies.length === 0)
    throw new StartTrouble(
      `It would listen on ${settings.listen} without TLS: passwords would cross the network in the clear. Set tlsCert and tlsKey, or trustedProxies where a proxy in front ends TLS, or listen on 127.0.0.1.`,
    );
  if (!isLoopback(settings.listen) && settings.publicUrl === '' && settings.hosts.length === 0)
    throw new StartTrouble(`It would listen on ${settings.listen}: say how browsers reach it in publicUrl.`);
  return settings;
}

function settingsFile(path: string): Record<string, unknown> {
  let read: unknown;
  try {
    read = parse(readFileSync(path, 'utf8'), { maxAliasCount: 0 });
  } catch (error) {
    throw new StartTrouble(`The settings file ${path} cannot be read: ${words(error)}.`);
  }
  if (read === null || read === undefined) return {};
  if (typeof read !== 'object' || Array.isArray(read))
    throw new StartTrouble(`${path} must hold one setting a line, such as port: 4600.`);
  return read as Record<string, unknown>;
}

export const isLoopback = (address: string): boolean =>
  address === '::1' || address.startsWith('127.') || address === '::ffff:127.0.0.1';

/** Is what browsers see https? */
export const isSecure = (s: Pick<Settings, 'publicUrl' | 'tlsCert'>): boolean =>
  s.publicUrl === '' ? s.tlsCert !== '' : s.publicUrl.startsWith('https:');

/** Host names that requests may name. */
export function hostsOf(s: Pick<Settings, 'publicUrl' | 'hosts'>): ReadonlySet<string> {
  return new Set(
    ['localhost', '127.0.0.1', '[::1]', ...(s.publicUrl === '' ? [] : [new URL(s.publicUrl).hostname]), ...s.hosts].map(
      (h) => h.toLowerCase(),
    ),
  );
}
