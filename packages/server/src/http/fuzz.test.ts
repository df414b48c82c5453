import { LARGE_BODY, PLAIN_BODY, ROLES, ROUTES } from '@anthemion/contract';
import { FABRIC_PATTERNS, MODELS, POOLS, RACK_PATTERNS, skerryEdits } from '@anthemion/core';
import fc from 'fast-check';
import PQueue from 'p-queue';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { beginFabric } from '../services/fabrics.ts';
import { Bare } from '../testing/bare.ts';
import { INES } from '../testing/smallHouse.ts';
import type { Caller } from '../testing/world.ts';

const REQUESTS = Number(process.env['ANTHEMION_RUNS'] ?? 5_000);
const SEED = 20_261_126;
const LARGEST_TO_NOBODY = 64 * 1024;
/** A request that has no answer by then hangs; the machine may be slow. */
const HANGS_MS = 60_000;

const bare = new Bare();
let all: Caller;
let change = '';
beforeAll(async () => {
  await bare.open();
  await bare.furnish();
  all = await bare.account('all', ROLES, { admin: true });
  change = (await beginFabric(bare.server.house, { name: 'tarn', namePrefix: 'tn', title: '' }, INES)).change;
  // Somebody is bound to the fabric: no request can forget it before the others are sent.
  await bare.account('keeper', [], { bound: { tarn: ['onlooker'] } });
});
afterAll(() => bare.close());

const EDITS = skerryEdits();
const SAMPLES: readonly unknown[] = [
  { edits: EDITS.slice(0, 6) },
  { edits: EDITS.slice(-6) },
  {
    edits: [
      { kind: 'putSnippet', snippet: { name: 'motd', file: 'frr.conf', seats: [], text: '! {{ switch.hostname }}' } },
    ],
  },
  MODELS[0],
  RACK_PATTERNS[0],
  FABRIC_PATTERNS[0],
  POOLS[0],
  { name: 'x', password: 'y' },
  { code: 'x', name: 'xy', fullName: 'X Y', password: 'seven gulls over the breakwater' },
  { name: 'newname', fullName: 'X', roles: ['designer'], bound: { tarn: ['operator'] } },
  { fullName: 'X', roles: [], bound: {}, admin: false, disabled: false },
  { current: 'x', password: 'seven gulls over the breakwater' },
  { name: 'night', roles: [], fabrics: ['tarn'], days: 3 },
  { username: 'x', password: 'y', ranges: ['10.9.0.0/16'], note: '' },
  { address: '10.9.0.1', port: 22, location: '', account: null },
  { accept: [{ serial: 'x', key: `SHA256:${'a'.repeat(43)}` }] },
  { value: 'secretive', note: '' },
  { secondPerson: true },
  { fabric: 'tarn', title: 'A title', reason: '', ticket: '' },
  { change: 'x', stopLine: 1, undoSeconds: 30 },
  { csv: 'serial,model,address\nABC,TV-L48F,10.9.9.9' },
  { reason: 'because' },
  { serials: ['SK-0001'], reason: 'because', stopLine: 1, undoSeconds: 30 },
  { serials: ['SK-0001'], change: null, title: 'Adopt', reason: '', ticket: '' },
  { fabric: 'tarn', change: null, at: 'rack:1' },
  { revision: 0 },
];

const deep = (levels: number): unknown => JSON.parse('['.repeat(levels) + ']'.repeat(levels));
/** Deeper than a value could be written out here: put into the text. */
const ABYSS = '['.repeat(30_000) + ']'.repeat(30_000);
/** What is put where something else belongs. */
const hostile = fc.oneof(
  fc.constantFrom<unknown>(
    null,
    true,
    0,
    -1,
    1e308,
    -1e-320,
    2 ** 53,
    '',
    ' ',
    '\u0000',
    '__proto__',
    'constructor',
    '../..',
  ),
  fc.constantFrom<unknown>([], {}, [[]], [null], { toString: 1 }, { valueOf: null }, { constructor: { name: 'x' } }),
  fc.constantFrom<unknown>(JSON.parse('{"__proto__":{"admin":true}}'), JSON.parse('{"hasOwnProperty":1}'), {
    length: 1e9,
  }),
  fc.constantFrom(9, 13, 17, 200).map(deep),
  fc.constant('ABYSS'),
  fc.constantFrom(300, 5_001, 40_000).map((n) => Array.from({ length: n }, () => ({}))),
  fc.constantFrom(200, 5_000, 100_000).map((n) => 'a'.repeat(n)),
  fc.constantFrom(
    '=1+1',
    '{{ "x" | repeat: 99999999 }}',
    '{% for i in (1..99999999) %}x{% endfor %}',
    '💥\ud800',
    'ａｂｃ',
    '\r\n!',
    '<b>',
  ),
  fc.string({ unit: 'binary', maxLength: 40 }),
  fc.jsonValue({ maxDepth: 4 }),
);
type Step = {
  readonly at: number;
  readonly how: 'put' | 'drop' | 'add' | 'whole';
  readonly key: string;
  readonly value: unknown;
};
const steps = fc.array(
  fc.record<Step>({
    at: fc.nat(),
    how: fc.constantFrom('put', 'put', 'put', 'drop', 'add', 'whole'),
    key: fc.constantFrom(
      'constructor',
      'toString',
      'valueOf',
      '__proto__',
      'x',
      'kind',
      'name',
      'length',
      'y'.repeat(400),
    ),
    value: hostile,
  }),
  { maxLength: 3 },
);

/** Bends a body at places that a number picks. */
function bent(sample: unknown, how: readonly Step[]): unknown {
  let body = structuredClone(sample);
  for (const given of how) {
    // A value of its own each time: one that is put into itself is no JSON.
    const step = { ...given, value: structuredClone(given.value) };
    const places: { holder: Record<string, unknown>; key: string }[] = [];
    const walk = (value: unknown, depth: number): void => {
      if (typeof value !== 'object' || value === null || depth > 20) return;
      for (const key of Object.keys(value)) {
        places.push({ holder: value as Record<string, unknown>, key });
        walk((value as Record<string, unknown>)[key], depth + 1);
      }
    };
    walk(body, 0);
    const place = places.length === 0 ? undefined : places[step.at % places.length]!;
    if (step.how === 'whole' || place === undefined) body = step.value;
    else if (step.how === 'put') place.holder[place.key] = step.value;
    else if (step.how === 'drop') delete place.holder[place.key];
    else if (!Array.isArray(place.holder))
      Object.defineProperty(place.holder, step.key, {
        value: step.value,
        enumerable: true,
        configurable: true,
        writable: true,
      });
  }
  return body;
}

const word = fc.constantFrom(
  'x',
  'tarn',
  'CHANGE',
  'CHANGE',
  '__proto__',
  'constructor',
  '%00',
  '..%2f..',
  '%ff',
  '1',
  '-1',
  'a'.repeat(2000),
  '%F0%9F%92%A5',
);
/** Streams do not end; signing out would end the session that the others are sent with. */
const routes = Object.keys(ROUTES).filter((r) => !r.endsWith('/events') && r !== 'DELETE /api/session');
const requests = fc.record({
  route: fc.constantFrom(...routes),
  words: fc.array(word, { minLength: 3, maxLength: 3 }),
  query: fc.constantFrom(
    '',
    '?limit=0',
    '?limit=1e3',
    '?limit=999999',
    '?after=%ff',
    `?after=${'x'.repeat(900)}`,
    '?change=x',
    '?change[]=1&change[a]=2',
    '?text=%25&from=x&to=y',
    '?after=-1&limit=3',
    '?account=%27%3B--',
  ),
  sample: fc.oneof(
    { weight: 9, arbitrary: fc.constantFrom(...SAMPLES) },
    { weight: 1, arbitrary: fc.constant(undefined) },
  ),
  steps,
  /** What is done to the text of the body. */
  text: fc.constantFrom('', '', '', '', '', '', 'cut', 'double', 'bom', 'nul'),
  headers: fc.constantFrom<Record<string, string>>(
    {},
    {},
    {},
    { 'if-match': '"1"' },
    { 'if-match': '1e9' },
    { 'if-match': '"-1"' },
    { 'content-type': 'text/plain' },
    { 'content-type': 'application/json; charset=utf-99' },
    { 'content-encoding': 'gzip' },
    { cookie: 'anthemion=%' },
    { authorization: 'Bearer x' },
    { 'sec-fetch-site': 'cross-site' },
    { origin: 'null' },
  ),
  signedIn: fc.constantFrom(true, true, true, false),
});

/** So many requests, made a few at a time: all at once are a heap that takes longer to walk than to fill. */
function* sampled(count: number): Generator<ReturnType<typeof requests.generate>['value']> {
  for (let made = 0; made < count; made += 200)
    yield* fc.sample(requests, { seed: SEED + made, numRuns: Math.min(200, count - made) });
}

test(`promise 9: ${REQUESTS} requests nobody would send: no fault of ours, no hang, and nobody unknown is answered at length`, async () => {
  const queue = new PQueue({ concurrency: 12 });
  const wrong: string[] = [];
  const statuses: Record<string, number> = {};
  let largest = 0;
  for (const r of sampled(REQUESTS)) {
    const [method = '', path = ''] = r.route.split(' ');
    let n = 0;
    const filled = path.replaceAll(/:\w+/g, () => r.words[n++ % 3]!.replace('CHANGE', change));
    let body: string | undefined;
    if (method !== 'GET' && r.sample !== undefined) {
      body = (JSON.stringify(bent(r.sample, r.steps)) ?? 'null').replace('"ABYSS"', ABYSS);
      if (r.text === 'cut') body = body.slice(0, body.length >> 1);
      if (r.text === 'double') body += body;
      if (r.text === 'bom') body = `\ufeff${body}`;
      if (r.text === 'nul') body = `\u0000${body}`;
    }
    void queue.add(async () => {
      const headers = { 'content-type': 'application/json', ...(r.signedIn ? all.headers() : {}), ...r.headers };
      try {
        const answer = await fetch(`${bare.server.url}${filled}${r.query}`, {
          method,
          headers,
          ...(body === undefined ? {} : { body }),
          signal: AbortSignal.timeout(HANGS_MS),
        });
        const bytes = (await answer.arrayBuffer()).byteLength;
        statuses[answer.status] = (statuses[answer.status] ?? 0) + 1;
        if (!r.signedIn) largest = Math.max(largest, bytes);
        if (answer.status >= 500 || (!r.signedIn && bytes > LARGEST_TO_NOBODY))
          wrong.push(`${answer.status}, ${bytes} B: ${r.route} ${filled.slice(0, 60)} ${body?.slice(0, 200) ?? ''}`);
      } catch (error) {
        wrong.push(`${String(error)}: ${r.route} ${filled.slice(0, 60)} ${body?.slice(0, 200) ?? ''}`);
      }
    });
    if (queue.size > 200) await queue.onSizeLessThan(50);
  }
  await queue.onIdle();
  expect(wrong.slice(0, 20)).toEqual([]);
  // The requests reached every kind of answer, so it was not one wall that held them all.
  for (const status of [200, 400, 401, 403, 404, 413, 422])
    expect([status, statuses[status] ?? 0]).not.toEqual([status, 0]);
  expect(largest).toBeGreaterThan(0);
}, 900_000);

test('promise 9: two million empty edits, a body of 8 MB of brackets, and a million fields are refused at once and cheaply', async () => {
  const edits = `{"edits":[${'{},'.repeat(1_999_999)}{}]}`;
  const brackets = `{"edits":${'['.repeat(4_000_000)}${']'.repeat(4_000_000)}}`;
  const used = process.cpuUsage();
  for (const body of [edits, brackets]) {
    const answer = await fetch(`${bare.server.url}/api/changes/${change}/edits`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...all.headers() },
      body,
    });
    expect(answer.status).toBe(422);
    expect((await answer.text()).length).toBeLessThan(1000);
  }
  const { user, system } = process.cpuUsage(used);
  // Reading eight megabytes of JSON twice; what took minutes before takes a moment.
  expect((user + system) / 1e6).toBeLessThan(20);
  const unknown = await fetch(`${bare.server.url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({
      name: 'x',
      password: 'y',
      ...Object.fromEntries(Array.from({ length: 600 }, (_, i) => [`f${i}`, 1])),
    }),
  });
  expect(unknown.status).toBe(413);
  expect([PLAIN_BODY.depth, LARGE_BODY.depth]).toEqual([12, 16]);
});
