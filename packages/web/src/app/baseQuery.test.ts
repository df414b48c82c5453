// @vitest-environment jsdom
import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { api } from './api.ts';
import { followEvents } from './eventStream.ts';
import { store } from './store.ts';

/** The server of the test: who is signed in there, and what it was asked. */
let user: { name: string } | null;
let asked: string[];
const lines: { onerror: (() => void) | null }[] = [];

beforeEach(() => {
  user = { name: 'ines' };
  asked = [];
  const json = (body: unknown, status = 200): Response =>
    new Response(JSON.stringify(body), { status, headers: { 'content-type': 'application/json' } });
  // What is asked of no host is asked of this one, as in a browser.
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(url: string, init?: RequestInit) {
        super(new URL(url, 'http://here'), init);
      }
    },
  );
  vi.stubGlobal('fetch', (request: Request) => {
    const what = `${request.method} ${new URL(request.url).pathname}`;
    asked.push(what);
    if (what === 'GET /api/session') return Promise.resolve(json({ user }));
    if (what === 'POST /api/session') {
      user = { name: 'ines' };
      return Promise.resolve(json({ mustChange: false }));
    }
    // An answer that takes its time.
    if (what === 'GET /api/parts') return new Promise<Response>(() => undefined);
    return Promise.resolve(user ? json([]) : json({ detail: 'Your session has ended; sign in again.' }, 401));
  });
  vi.stubGlobal(
    'EventSource',
    class {
      static readonly CLOSED = 2;
      readyState = 0;
      onerror: (() => void) | null = null;
      constructor() {
        lines.push(this);
      }
      close(): void {}
    },
  );
});
afterEach(() => {
  store.dispatch(api.util.resetApiState());
  vi.unstubAllGlobals();
});

const whoIsThere = (): unknown => api.endpoints.session.select()(store.getState()).data?.user;

test('a call that finds the session ended brings the sign-in up, though the call itself waits for it', async () => {
  const session = store.dispatch(api.endpoints.session.initiate());
  await session;
  user = null;
  const pools = store.dispatch(api.endpoints.pools.initiate());
  await vi.waitFor(() => expect(whoIsThere()).toBeNull());
  await store.dispatch(api.endpoints.signIn.initiate({ name: 'ines', password: 'x' }));
  await vi.waitFor(() => expect(whoIsThere()).toEqual({ name: 'ines' }));
  expect((await pools).data).toEqual([]);
  expect(asked.filter((a) => a === 'GET /api/pools')).toHaveLength(2);
});

test('who is there is asked at once, whatever else is still being answered: when the line ends, and after a sign-in', async () => {
  await store.dispatch(api.endpoints.session.initiate());
  void store.dispatch(api.endpoints.parts.initiate());
  const stop = followEvents(store);
  user = null;
  lines.at(-1)!.onerror!();
  await vi.waitFor(() => expect(whoIsThere()).toBeNull());
  await store.dispatch(api.endpoints.signIn.initiate({ name: 'ines', password: 'x' }));
  await vi.waitFor(() => expect(whoIsThere()).toEqual({ name: 'ines' }));
  stop();
});
