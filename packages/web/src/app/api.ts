import type {
  ChangeAnswer,
  ChangeRequest,
  ChangeSummary,
  FabricAnswer,
  FindAnswer,
  HeardAnswer,
  TrafficAnswer,
  FabricRequest,
  FabricStateAnswer,
  InventoryAnswer,
  LogLine,
  PartsAnswer,
  PoolAnswer,
  RevisionAnswer,
  RoutingAnswer,
  RolloutAnswer,
  RolloutRequest,
  RolloutSummary,
  SessionAnswer,
  Settings,
  TakenFileAnswer,
  TextAnswer,
  HostKeysRequest,
  VersionRequest,
  SwitchPatch,
  FirstAccountRequest,
} from '@anthemion/contract';
import type {
  Answer,
  Edit,
  FabricPattern,
  HandedOver,
  LedgerEntry,
  Pool,
  ProofReport,
  RackPattern,
  SwitchModel,
} from '@anthemion/core';
import type { Dispatch } from '@reduxjs/toolkit';
import { createApi } from '@reduxjs/toolkit/query/react';
import { baseQuery, signedIn, WHOLE, whenSignedOut } from './baseQuery.ts';

import { computed, edited, listOf, one, TAGS } from './tags.ts';

export { nextMark, WHOLE } from './baseQuery.ts';
export { asksTogether, notTaken, problemOf } from './problemOf.ts';

export type LedgerAnswer = LedgerEntry & { readonly drawnBy: { readonly id: string; readonly title: string } | null };
/** A fabric as it is live (change null), or as an open change would have it. */
export type FabricAt = { readonly name: string; readonly change: string | null };
export const at = ({ name, change }: FabricAt, more = ''): string =>
  `fabrics/${name}${more}${change === null ? '' : `?change=${change}`}`;
export const enc = encodeURIComponent;
/** For large answers: nobody writes to them, and frozen the store need not walk through all of one to see to that. */
export const asItCame = <T>(answer: unknown): T => Object.freeze(answer) as T;

/** The answer of what was done to a change is the change: it is shown at once, so the next step rests on its version. */
async function shown(
  _asked: unknown,
  tools: { queryFulfilled: Promise<{ data: ChangeAnswer }>; dispatch: (action: never) => unknown },
): Promise<void> {
  try {
    const { data } = await tools.queryFulfilled;
    tools.dispatch(api.util.upsertQueryData('change', data.id, data) as never);
  } catch {
    // What others did meanwhile is looked at again; the caller says what went wrong.
    tools.dispatch(api.util.invalidateTags(['Changes']) as never);
  }
}

/** The version of a change that is on the screen: what is done rests on it, or is refused. */
const seen = (version: number) => ({ 'if-match': `"${version}"` });

/** All server data, through RTK Query. Tags carry ids: one edit asks anew for what hangs on it, and for nothing else. */
export const api = createApi({
  baseQuery,
  tagTypes: TAGS,
  endpoints: (b) => ({
    session: b.query<SessionAnswer, void>({ query: () => 'session', providesTags: ['Session'] }),
    signIn: b.mutation<{ mustChange: boolean }, { name: string; password: string }>({
      query: (body) => ({ url: 'session', method: 'POST', body }),
      onQueryStarted: (_asked, { queryFulfilled, dispatch }) =>
        void queryFulfilled.then(
          () => {
            askWhoIsThere(dispatch);
            signedIn();
          },
          () => undefined,
        ),
    }),
    signOut: b.mutation<unknown, void>({
      query: () => ({ url: 'session', method: 'DELETE' }),
      invalidatesTags: ['Session'],
    }),
    firstAccount: b.mutation<unknown, FirstAccountRequest>({
      query: (body) => ({ url: 'first-account', method: 'POST', body }),
      invalidatesTags: ['Session'],
    }),
    settings: b.query<Settings, void>({ query: () => 'settings', providesTags: ['Settings'] }),
    putSettings: b.mutation<unknown, Settings>({
      query: (body) => ({ url: 'settings', method: 'PUT', body }),
      invalidatesTags: ['Settings'],
    }),

    heard: b.query<HeardAnswer, { readonly name: string; readonly what: string }>({
      query: ({ name, what }) => ({ url: `fabrics/${name}/heard`, method: 'POST', body: { what } }),
      // What is heard is true for a moment.
      keepUnusedDataFor: 0,
    }),
    traffic: b.query<TrafficAnswer, { readonly name: string; readonly seat: string }>({
      query: ({ name, seat }) => ({ url: `fabrics/${name}/traffic`, method: 'POST', body: { seat } }),
      // It is true for a moment.
      keepUnusedDataFor: 0,
    }),
    find: b.query<FindAnswer, { readonly q: string; readonly near: string }>({
      query: (params) => ({ url: 'find', params }),
      // What is found is as old as the list that is open.
      keepUnusedDataFor: 0,
    }),

    parts: b.query<PartsAnswer, void>({ query: () => 'parts', providesTags: ['Parts'] }),
    putModel: b.mutation<unknown, SwitchModel>({
      query: (body) => ({ url: `models/${enc(body.name)}`, method: 'PUT', body }),
      invalidatesTags: ['Parts'],
    }),
    removePart: b.mutation<
      unknown,
      { readonly of: 'models' | 'rack-patterns' | 'fabric-patterns'; readonly name: string }
    >({
      query: ({ of, name }) => ({ url: `${of}/${enc(name)}`, method: 'DELETE' }),
      invalidatesTags: ['Parts'],
    }),
    putRackPattern: b.mutation<unknown, RackPattern>({
      query: (body) => ({ url: `rack-patterns/${enc(body.name)}`, method: 'PUT', body }),
      invalidatesTags: ['Parts'],
    }),
    putFabricPattern: b.mutation<unknown, FabricPattern>({
      query: (body) => ({ url: `fabric-patterns/${enc(body.name)}`, method: 'PUT', body }),
      invalidatesTags: ['Parts'],
    }),

    pools: b.query<PoolAnswer[], void>({ query: () => 'pools', providesTags: ['Pools'] }),
    makePool: b.mutation<unknown, Pool>({
      query: (body) => ({ url: 'pools', method: 'POST', body }),
      invalidatesTags: ['Pools', 'Changes', 'Fabrics', 'Draft'],
    }),
    putPool: b.mutation<unknown, Pool>({
      query: (body) => ({ url: `pools/${enc(body.name)}`, method: 'PUT', body }),
      invalidatesTags: ['Pools', 'Changes', 'Fabrics', 'Draft'],
    }),
    removePool: b.mutation<unknown, string>({
      query: (name) => ({ url: `pools/${enc(name)}`, method: 'DELETE' }),
      invalidatesTags: ['Pools'],
    }),
    ledger: b.query<LedgerAnswer[], { pool?: string; fabric?: string }>({
      query: (params) => ({ url: 'ledger', params }),
      extraOptions: WHOLE,
      providesTags: ['Pools'],
    }),

    switches: b.query<InventoryAnswer[], void>({
      query: () => 'switches',
      extraOptions: WHOLE,
      providesTags: ['Switches'],
    }),
    importSwitches: b.mutation<{ imported: number }, string>({
      query: (csv) => ({ url: 'switches/import', method: 'POST', body: { csv } }),
      invalidatesTags: ['Switches'],
    }),
    removeSwitch: b.mutation<unknown, string>({
      query: (serial) => ({ url: `switches/${enc(serial)}`, method: 'DELETE' }),
      invalidatesTags: ['Switches'],
    }),
    patchSwitch: b.mutation<unknown, { serial: string } & SwitchPatch>({
      query: ({ serial, ...body }) => ({ url: `switches/${enc(serial)}`, method: 'PATCH', body }),
      invalidatesTags: ['Switches', 'SwitchAccounts'],
    }),
    acceptKeys: b.mutation<{ accepted: number }, HostKeysRequest['accept']>({
      query: (accept) => ({ url: 'switches/host-keys', method: 'POST', body: { accept } }),
      invalidatesTags: ['Switches'],
    }),
    acceptVersion: b.mutation<unknown, { serial: string } & VersionRequest>({
      query: ({ serial, ...body }) => ({
        url: `switches/${enc(serial)}/accept-version`,
        method: 'POST',
        body,
      }),
      invalidatesTags: ['Switches'],
    }),
    releaseSwitch: b.mutation<unknown, { serial: string; reason: string }>({
      query: ({ serial, reason }) => ({ url: `switches/${enc(serial)}/release`, method: 'POST', body: { reason } }),
      invalidatesTags: ['Switches'],
    }),
    forgetSwitch: b.mutation<unknown, { serial: string; reason: string }>({
      query: ({ serial, reason }) => ({ url: `switches/${enc(serial)}/forget`, method: 'POST', body: { reason } }),
      invalidatesTags: ['Switches', 'Fabrics', 'Pools'],
    }),
    readSwitch: b.mutation<unknown, string>({
      query: (serial) => ({ url: `switches/${enc(serial)}/read`, method: 'POST' }),
      invalidatesTags: ['Switches'],
    }),

    fabrics: b.query<FabricAnswer[], void>({
      query: () => 'fabrics',
      extraOptions: WHOLE,
      providesTags: [listOf('Fabrics')],
    }),
    makeFabric: b.mutation<{ fabric: string; change: string }, FabricRequest>({
      query: (body) => ({ url: 'fabrics', method: 'POST', body }),
      invalidatesTags: [listOf('Fabrics'), listOf('Changes'), 'Day'],
    }),
    fabric: b.query<FabricStateAnswer, FabricAt>({
      query: (f) => at(f),
      transformResponse: asItCame,
      providesTags: (_r, _e, f) => computed(f),
    }),
    askNetwork: b.query<Answer, FabricAt & { readonly question: string }>({
      query: ({ question, ...f }) => {
        const path = at(f, '/ask');
        return `${path}${path.includes('?') ? '&' : '?'}question=${enc(question)}`;
      },
      transformResponse: asItCame,
      providesTags: (_r, _e, f) => computed(f),
    }),
    outside: b.query<readonly HandedOver[], FabricAt>({
      query: (f) => at(f, '/outside'),
      providesTags: (_r, _e, f) => computed(f),
    }),
    routing: b.query<RoutingAnswer, FabricAt & { readonly of: string | null }>({
      query: ({ of, ...f }) => {
        const path = at(f, '/routing');
        return of === null ? path : `${path}${path.includes('?') ? '&' : '?'}of=${enc(of)}`;
      },
      transformResponse: asItCame,
      providesTags: (_r, _e, f) => computed(f),
    }),
    liveProof: b.query<ProofReport, string>({
      query: (name) => `fabrics/${name}/proof`,
      transformResponse: asItCame,
      providesTags: (_r, _e, name) => [one('Fabrics', name)],
    }),
    text: b.query<TextAnswer, FabricAt & { seat: string }>({
      query: (f) => at(f, `/text/${f.seat}`),
      providesTags: (_r, _e, f) => [...computed(f), one('Live', f.name)],
    }),
    removeFabric: b.mutation<unknown, string>({
      query: (name) => ({ url: `fabrics/${name}`, method: 'DELETE' }),
      invalidatesTags: ['Fabrics', 'Changes', 'Pools', 'Switches', 'Day'],
    }),
    revisions: b.query<RevisionAnswer[], string>({
      query: (name) => `fabrics/${name}/revisions`,
      extraOptions: WHOLE,
      providesTags: (_r, _e, name) => [one('Fabrics', name)],
    }),
    takeFile: b.mutation<TakenFileAnswer, { readonly name: string; readonly text: string; readonly title: string }>({
      query: ({ name, ...body }) => ({ url: `fabrics/${name}/intent`, method: 'POST', body }),
      invalidatesTags: ['Changes', 'Fabrics'],
    }),
    returnTo: b.mutation<{ change: string }, { name: string; revision: number }>({
      query: ({ name, revision }) => ({ url: `fabrics/${name}/return`, method: 'POST', body: { revision } }),
      invalidatesTags: [listOf('Changes'), 'Day'],
    }),
    changes: b.query<ChangeSummary[], void>({
      query: () => 'changes',
      extraOptions: WHOLE,
      providesTags: [listOf('Changes')],
    }),
    openChange: b.mutation<ChangeAnswer, ChangeRequest>({
      query: (body) => ({ url: 'changes', method: 'POST', body }),
      invalidatesTags: [listOf('Changes'), listOf('Fabrics'), 'Day'],
    }),
    change: b.query<ChangeAnswer, string>({
      query: (id) => `changes/${id}`,
      providesTags: (_r, _e, id) => [one('Changes', id)],
    }),
    retitle: b.mutation<ChangeAnswer, { id: string; version: number; title: string; reason: string; ticket: string }>({
      query: ({ id, version, ...body }) => ({ url: `changes/${id}`, method: 'PATCH', body, headers: seen(version) }),
      onQueryStarted: shown,
      invalidatesTags: [listOf('Changes'), 'Day'],
    }),
    addEdits: b.mutation<ChangeAnswer, { id: string; version: number; edits: readonly Edit[] }>({
      query: ({ id, version, edits }) => ({
        url: `changes/${id}/edits`,
        method: 'POST',
        body: { edits },
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: (_r, _e, { id }) => edited(id),
    }),
    undoEdit: b.mutation<ChangeAnswer, { id: string; version: number; position: number }>({
      query: ({ id, version, position }) => ({
        url: `changes/${id}/edits/${position}`,
        method: 'DELETE',
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: (_r, _e, { id }) => edited(id),
    }),
    keepEdit: b.mutation<ChangeAnswer, { id: string; version: number; position: number }>({
      query: ({ id, version, position }) => ({
        url: `changes/${id}/edits/${position}/keep`,
        method: 'POST',
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: (_r, _e, { id }) => edited(id),
    }),
    prove: b.mutation<ChangeAnswer, string>({
      query: (id) => ({ url: `changes/${id}/prove`, method: 'POST' }),
      onQueryStarted: shown,
      invalidatesTags: (_r, _e, id) => edited(id),
    }),
    approve: b.mutation<ChangeAnswer, { id: string; version: number; note: string }>({
      query: ({ id, version, note }) => ({
        url: `changes/${id}/approve`,
        method: 'POST',
        body: { note },
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: (_r, _e, { id }) => edited(id),
    }),
    askApproval: b.mutation<ChangeAnswer, { id: string; version: number }>({
      query: ({ id, version }) => ({ url: `changes/${id}/ask`, method: 'POST', headers: seen(version) }),
      onQueryStarted: shown,
      invalidatesTags: [listOf('Changes'), 'Day'],
    }),
    withdraw: b.mutation<ChangeAnswer, { id: string; version: number }>({
      query: ({ id, version }) => ({ url: `changes/${id}/withdraw`, method: 'POST', headers: seen(version) }),
      onQueryStarted: shown,
      invalidatesTags: (_r, _e, { id }) => edited(id),
    }),

    rollouts: b.query<RolloutSummary[], void>({
      query: () => 'rollouts',
      extraOptions: WHOLE,
      providesTags: [listOf('Rollouts')],
    }),
    rollOut: b.mutation<RolloutAnswer, RolloutRequest & { readonly version: number }>({
      query: ({ version, ...body }) => ({ url: 'rollouts', method: 'POST', body, headers: seen(version) }),
      invalidatesTags: ['Rollouts', 'Changes', 'Fabrics'],
    }),
    catchUp: b.mutation<RolloutAnswer, { fabric: string; together: boolean }>({
      query: ({ fabric, together }) => ({ url: `fabrics/${fabric}/catch-up`, method: 'POST', body: { together } }),
      invalidatesTags: ['Rollouts', 'Fabrics'],
    }),
    closeRollout: b.mutation<RolloutAnswer, { id: string; reason: string }>({
      query: ({ id, reason }) => ({ url: `rollouts/${id}/close`, method: 'POST', body: { reason } }),
      invalidatesTags: ['Rollouts', 'Changes', 'Fabrics', 'Pools'],
    }),
    rollout: b.query<RolloutAnswer, string>({
      query: (id) => `rollouts/${id}`,
      providesTags: (_r, _e, id) => [one('Rollouts', id)],
      /** Follows the server's events while the page is open; a dropped line is taken up again by the browser. */
      async onCacheEntryAdded(id, { updateCachedData, cacheDataLoaded, cacheEntryRemoved, dispatch }) {
        await cacheDataLoaded.catch(() => undefined);
        const events = new EventSource(`/api/rollouts/${id}/events`);
        let state = '';
        events.onmessage = (message: MessageEvent<string>) => {
          const next = JSON.parse(message.data) as RolloutAnswer;
          updateCachedData(() => next);
          if (state !== '' && state !== next.state)
            dispatch(
              api.util.invalidateTags([one('Changes', next.change), one('Fabrics', next.fabric), 'Switches', 'Day']),
            );
          state = next.state;
        };
        await cacheEntryRemoved;
        events.close();
      },
    }),
    rolloutLog: b.query<LogLine[], { id: string; host: string; stamp: string }>({
      query: ({ id, host }) => ({ url: `rollouts/${id}/log`, params: host === '' ? {} : { host } }),
      extraOptions: WHOLE,
    }),
    steer: b.mutation<RolloutAnswer, { id: string; how: 'pause' | 'resume' | 'retry' | 'undo' }>({
      query: ({ id, how }) => ({ url: `rollouts/${id}/${how}`, method: 'POST' }),
      invalidatesTags: ['Rollouts', 'Changes'],
    }),
  }),
});

/**
 * Asks who is signed in, at once. Tags would wait until nothing else is being asked, and what is asked may be waiting for
 * just this: a call that found the session ended.
 */
export function askWhoIsThere(dispatch: Dispatch): void {
  dispatch(api.endpoints.session.initiate(undefined, { forceRefetch: true, subscribe: false }) as never);
}
whenSignedOut(askWhoIsThere);
