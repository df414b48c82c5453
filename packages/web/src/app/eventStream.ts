import type { EventMessage } from '@anthemion/contract';
import { useEffect } from 'react';
import { api, askWhoIsThere } from './api.ts';
import { connectionLost, connectionMended, useAppStore, type AppStore } from './store.ts';
import { listOf, one, TAGS } from './tags.ts';

/** Messages within so long are taken together, milliseconds: a rollout tells of every step of every switch. */
const GATHER_MS = 250;
/** How long after a line that was refused another is tried, milliseconds. */
const AGAIN_MS = 3_000;

type Tag = Parameters<typeof api.util.invalidateTags>[0][number];

/** What a message makes stale. A change that is shown at that version already (one did it oneself) is not asked for again. */
export function staleBy(message: EventMessage, versionShown: (change: string) => number | undefined): Tag[] {
  const { topic, id, fabric, version } = message;
  switch (topic) {
    case 'changes': {
      const lists: Tag[] = [listOf('Changes'), 'Day', ...(fabric === undefined ? [] : [one('Draft', `of ${fabric}`)])];
      if (id === undefined) return [...lists, 'Changes', 'Draft'];
      const known = version !== undefined && (versionShown(id) ?? 0) >= version;
      return known ? lists : [...lists, one('Changes', id), one('Draft', id), 'Pools'];
    }
    case 'fabrics':
      return id === undefined
        ? ['Fabrics', 'Draft', 'Day']
        : [one('Fabrics', id), listOf('Fabrics'), one('Draft', `of ${id}`), one('Live', id), 'Day'];
    case 'rollouts':
      return [listOf('Rollouts'), ...(id === undefined ? ['Rollouts' as const] : [one('Rollouts', id)]), 'Day'];
    case 'rehearsals':
      return id === undefined ? ['Rehearsal'] : [one('Rehearsal', id)];
    case 'live':
      return [...(id === undefined ? ['Live' as const] : [one('Live', id)]), 'Day'];
    case 'here':
      return id === undefined ? ['Here'] : [one('Here', id)];
    case 'switches':
      return ['Switches'];
    case 'pools':
      return ['Pools'];
    case 'parts':
      return ['Parts'];
    case 'accounts':
      return ['Users', 'Session'];
    case 'bench':
      return ['Bench'];
  }
}

/** Follows the server's one stream: what others do is asked for anew; a line that drops is said, and mended by asking for everything. */
export function followEvents(store: AppStore): () => void {
  let waiting: EventMessage[] = [];
  let timer: ReturnType<typeof setTimeout> | undefined;
  let again: ReturnType<typeof setTimeout> | undefined;
  let source: EventSource | undefined;
  let ended = false;

  const versionShown = (change: string): number | undefined =>
    api.endpoints.change.select(change)(store.getState()).data?.version;
  const pass = (): void => {
    timer = undefined;
    const tags = new Map(waiting.flatMap((m) => staleBy(m, versionShown)).map((t) => [JSON.stringify(t), t]));
    waiting = [];
    store.dispatch(api.util.invalidateTags([...tags.values()]));
  };
  const lost = (): void => {
    if (!ended) store.dispatch(connectionLost());
  };
  const open = (): void => {
    source?.close();
    // What was told since the session was answered may have come before what the page shows was asked for, or after.
    const told = api.endpoints.session.select()(store.getState()).data?.told;
    source = new EventSource(`/api/events${told === undefined ? '' : `?after=${told}`}`);
    source.onopen = () => {
      if (store.getState().connection.lost) store.dispatch(api.util.invalidateTags([...TAGS]));
      store.dispatch(connectionMended());
    };
    source.onmessage = ({ data }: MessageEvent<string>) => {
      waiting.push(JSON.parse(data) as EventMessage);
      timer ??= setTimeout(pass, GATHER_MS);
    };
    source.onerror = () => {
      lost();
      // The line also ends with the session: then it is said at once, not at the next click.
      if (!ended) askWhoIsThere(store.dispatch);
      // A line that was refused is not taken up again by the browser itself.
      if (source?.readyState === EventSource.CLOSED && !ended) {
        clearTimeout(again);
        again = setTimeout(open, AGAIN_MS);
      }
    };
  };
  open();
  window.addEventListener('offline', lost);
  window.addEventListener('online', open);
  return () => {
    ended = true;
    clearTimeout(timer);
    clearTimeout(again);
    source?.close();
    window.removeEventListener('offline', lost);
    window.removeEventListener('online', open);
  };
}

/** Follows the stream while somebody is signed in. */
export function useEventStream(signedIn: boolean): void {
  const store = useAppStore();
  useEffect(() => (signedIn ? followEvents(store) : undefined), [signedIn, store]);
}
