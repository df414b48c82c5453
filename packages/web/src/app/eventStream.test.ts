// @vitest-environment jsdom
import { EVENT_TOPICS, type EventMessage } from '@anthemion/contract';
import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import { api } from './api.ts';
import { followEvents, staleBy } from './eventStream.ts';
import { store } from './store.ts';

/** A stream that is opened, told and dropped by the test. */
class FakeSource {
  static readonly CLOSED = 2;
  static all: FakeSource[] = [];
  readyState = 1;
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  onmessage: ((e: { data: string }) => void) | null = null;
  readonly url: string;
  constructor(url: string) {
    this.url = url;
    FakeSource.all.push(this);
  }
  close(): void {
    this.readyState = FakeSource.CLOSED;
  }
}
const tell = (m: EventMessage): void => FakeSource.all.at(-1)!.onmessage!({ data: JSON.stringify(m) });

beforeEach(() => {
  vi.useFakeTimers();
  FakeSource.all = [];
  vi.stubGlobal('EventSource', FakeSource);
});
afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('promise 7: the one stream', () => {
  test('every topic makes something stale, and one thing does not make all of its kind so', () => {
    for (const topic of EVENT_TOPICS) expect(staleBy({ topic, id: 'x' }, () => undefined).length).toBeGreaterThan(0);
    expect(staleBy({ topic: 'live', id: 'skerry' }, () => undefined)).toEqual([{ type: 'Live', id: 'skerry' }, 'Day']);
    expect(staleBy({ topic: 'changes', id: 'a', fabric: 'skerry' }, () => undefined)).toContainEqual({
      type: 'Changes',
      id: 'a',
    });
    expect(staleBy({ topic: 'changes', id: 'a', fabric: 'skerry' }, () => undefined)).not.toContain('Changes');
  });

  test('what one did oneself is not asked for again; what somebody else did after it is', () => {
    const own: EventMessage = { topic: 'changes', id: 'a', fabric: 'skerry', version: 4 };
    expect(staleBy(own, () => 4)).not.toContainEqual({ type: 'Changes', id: 'a' });
    expect(staleBy(own, () => 3)).toContainEqual({ type: 'Changes', id: 'a' });
  });

  test('the line begins where the session was answered, so that nothing is missed between', async () => {
    const session = { user: null, mustChange: false, firstStart: false, demoAccounts: [], told: 7 };
    await store.dispatch(api.util.upsertQueryData('session', undefined, session));
    followEvents(store)();
    expect(FakeSource.all.map((s) => s.url)).toEqual(['/api/events?after=7']);
  });

  test('a line that drops is said, taken up again, and mended by asking for everything', () => {
    const asked = vi.spyOn(store, 'dispatch');
    const stop = followEvents(store);
    const [first] = FakeSource.all;
    first!.onopen!();
    expect(store.getState().connection.lost).toBe(false);
    tell({ topic: 'switches' });
    tell({ topic: 'switches', id: 'x' });
    vi.advanceTimersByTime(1000);
    const invalidations = (): number =>
      asked.mock.calls.filter(([a]) => (a as { type?: string }).type?.includes('invalidateTags')).length;
    // Two messages of one moment are one asking.
    expect(invalidations()).toBe(1);
    first!.readyState = FakeSource.CLOSED;
    first!.onerror!();
    expect(store.getState().connection.lost).toBe(true);
    vi.advanceTimersByTime(5000);
    expect(FakeSource.all).toHaveLength(2);
    FakeSource.all[1]!.onopen!();
    expect(store.getState().connection.lost).toBe(false);
    expect(invalidations()).toBe(2);
    stop();
    vi.advanceTimersByTime(60_000);
    expect(FakeSource.all).toHaveLength(2);
  });
});
