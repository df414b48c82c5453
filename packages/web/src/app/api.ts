import type {
  BenchAnswer,
  ChangeAnswer,
  ChangeRequest,
  ChangeSummary,
  FabricAnswer,
  FabricRequest,
  FabricStateAnswer,
  InventoryAnswer,
  LiveAnswer,
  LogLine,
  PartsAnswer,
  PoolAnswer,
  Problem,
  RevisionAnswer,
  RolloutAnswer,
  RolloutRequest,
  RolloutSummary,
  SessionAnswer,
  Settings,
  TextAnswer,
  HostKeysRequest,
  SwitchPatch,
  FirstAccountRequest,
} from '@anthemion/contract';
import type { Edit, FabricPattern, LedgerEntry, Pool, ProofReport, RackPattern } from '@anthemion/core';
import {
  createApi,
  fetchBaseQuery,
  type BaseQueryApi,
  type BaseQueryFn,
  type FetchArgs,
  type FetchBaseQueryError,
  type FetchBaseQueryMeta,
} from '@reduxjs/toolkit/query/react';

export type LedgerAnswer = LedgerEntry & { readonly drawnBy: { readonly id: string; readonly title: string } | null };
type FabricAt = { readonly name: string; readonly change: string | null };
const at = ({ name, change }: FabricAt, more = ''): string =>
  `fabrics/${name}${more}${change === null ? '' : `?change=${change}`}`;
export const enc = encodeURIComponent;

const plainQuery = fetchBaseQuery({ baseUrl: '/api/' });
const LARGEST_PAGE = 1000;
/** Lists that are shown whole: their pages are fetched one after another (Link header, RFC 8288). */
export const WHOLE: Extra = { whole: true };
interface Extra {
  readonly whole?: boolean;
}
/** Mark at which the next page begins, by the Link header; null = that was the last. */
export function nextMark(meta: FetchBaseQueryMeta | undefined): string | null {
  const next = /^<([^>]+)>; rel="next"/.exec(meta?.response?.headers.get('link') ?? '')?.[1];
  return next === undefined ? null : new URL(next, 'http://here').searchParams.get('after');
}
/** What waits for somebody to sign in again. */
const waiting = new Set<() => void>();
const signedIn = (): void => {
  for (const go of waiting) go();
  waiting.clear();
};

/**
 * As plainQuery; but where nobody is signed in any more, the sign-in comes up, and what only reads waits for it and asks
 * again: a page keeps what it shows and what was typed on it.
 */
async function askedAgain(
  args: string | FetchArgs,
  tools: BaseQueryApi,
): Promise<Awaited<ReturnType<typeof plainQuery>>> {
  for (;;) {
    const answer = await plainQuery(args, tools, {});
    if (answer.error?.status !== 401 || tools.endpoint === 'signIn') return answer;
    tools.dispatch(api.util.invalidateTags(['Session']) as never);
    if (tools.type !== 'query') return answer;
    await new Promise<void>((go) => waiting.add(go));
  }
}
const query: BaseQueryFn<string | FetchArgs, unknown, FetchBaseQueryError, Extra, FetchBaseQueryMeta> = async (
  args,
  tools,
  extra,
) => {
  if (extra?.whole !== true) return askedAgain(args, tools);
  const asked: FetchArgs = typeof args === 'string' ? { url: args } : args;
  const items: unknown[] = [];
  for (let after: string | null = ''; after !== null;) {
    const page = await askedAgain(
      { ...asked, params: { ...asked.params, limit: LARGEST_PAGE, ...(after === '' ? {} : { after }) } },
      tools,
    );
    if (page.error) return page;
    items.push(...(page.data as unknown[]));
    after = nextMark(page.meta);
  }
  return { data: items };
};

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

/** All server data, through RTK Query. Whatever changes intent makes everything that is computed from it stale. */
export const api = createApi({
  baseQuery: query,
  tagTypes: [
    'Session',
    'Users',
    'Sessions',
    'Tokens',
    'Audit',
    'SwitchAccounts',
    'Secrets',
    'Settings',
    'Parts',
    'Pools',
    'Switches',
    'Fabrics',
    'Changes',
    'Rollouts',
    'Bench',
    'Live',
  ],
  endpoints: (b) => ({
    session: b.query<SessionAnswer, void>({ query: () => 'session', providesTags: ['Session'] }),
    signIn: b.mutation<{ mustChange: boolean }, { name: string; password: string }>({
      query: (body) => ({ url: 'session', method: 'POST', body }),
      onQueryStarted: (_asked, { queryFulfilled }) => void queryFulfilled.then(signedIn, () => undefined),
      invalidatesTags: ['Session'],
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

    parts: b.query<PartsAnswer, void>({ query: () => 'parts', providesTags: ['Parts'] }),
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
      invalidatesTags: ['Pools', 'Changes', 'Fabrics'],
    }),
    putPool: b.mutation<unknown, Pool>({
      query: (body) => ({ url: `pools/${enc(body.name)}`, method: 'PUT', body }),
      invalidatesTags: ['Pools', 'Changes', 'Fabrics'],
    }),
    ledger: b.query<LedgerAnswer[], { pool?: string; fabric?: string }>({
      query: (params) => ({ url: 'ledger', params }),
      extraOptions: WHOLE,
      providesTags: ['Pools', 'Changes'],
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
    patchSwitch: b.mutation<unknown, { serial: string } & SwitchPatch>({
      query: ({ serial, ...body }) => ({ url: `switches/${enc(serial)}`, method: 'PATCH', body }),
      invalidatesTags: ['Switches', 'SwitchAccounts'],
    }),
    acceptKeys: b.mutation<{ accepted: number }, HostKeysRequest['accept']>({
      query: (accept) => ({ url: 'switches/host-keys', method: 'POST', body: { accept } }),
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
      invalidatesTags: ['Switches', 'Fabrics'],
    }),

    fabrics: b.query<FabricAnswer[], void>({ query: () => 'fabrics', extraOptions: WHOLE, providesTags: ['Fabrics'] }),
    makeFabric: b.mutation<{ fabric: string; change: string }, FabricRequest>({
      query: (body) => ({ url: 'fabrics', method: 'POST', body }),
      invalidatesTags: ['Fabrics', 'Changes'],
    }),
    fabric: b.query<FabricStateAnswer, FabricAt>({ query: (f) => at(f), providesTags: ['Fabrics'] }),
    liveProof: b.query<ProofReport, string>({ query: (name) => `fabrics/${name}/proof`, providesTags: ['Fabrics'] }),
    text: b.query<TextAnswer, FabricAt & { seat: string }>({
      query: (f) => at(f, `/text/${f.seat}`),
      providesTags: ['Fabrics'],
    }),
    revisions: b.query<RevisionAnswer[], string>({
      query: (name) => `fabrics/${name}/revisions`,
      extraOptions: WHOLE,
      providesTags: ['Fabrics'],
    }),
    returnTo: b.mutation<{ change: string }, { name: string; revision: number }>({
      query: ({ name, revision }) => ({ url: `fabrics/${name}/return`, method: 'POST', body: { revision } }),
      invalidatesTags: ['Changes'],
    }),
    live: b.query<LiveAnswer, FabricAt>({
      query: (f) => ({ url: at(f, '/live'), method: 'POST' }),
      providesTags: ['Live'],
    }),

    changes: b.query<ChangeSummary[], void>({ query: () => 'changes', extraOptions: WHOLE, providesTags: ['Changes'] }),
    openChange: b.mutation<ChangeAnswer, ChangeRequest>({
      query: (body) => ({ url: 'changes', method: 'POST', body }),
      invalidatesTags: ['Changes', 'Fabrics'],
    }),
    change: b.query<ChangeAnswer, string>({ query: (id) => `changes/${id}`, providesTags: ['Changes'] }),
    retitle: b.mutation<ChangeAnswer, { id: string; version: number; title: string; reason: string; ticket: string }>({
      query: ({ id, version, ...body }) => ({ url: `changes/${id}`, method: 'PATCH', body, headers: seen(version) }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes'],
    }),
    addEdits: b.mutation<ChangeAnswer, { id: string; version: number; edits: readonly Edit[] }>({
      query: ({ id, version, edits }) => ({
        url: `changes/${id}/edits`,
        method: 'POST',
        body: { edits },
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes', 'Fabrics', 'Pools'],
    }),
    undoEdit: b.mutation<ChangeAnswer, { id: string; version: number; position: number }>({
      query: ({ id, version, position }) => ({
        url: `changes/${id}/edits/${position}`,
        method: 'DELETE',
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes', 'Fabrics', 'Pools'],
    }),
    keepEdit: b.mutation<ChangeAnswer, { id: string; version: number; position: number }>({
      query: ({ id, version, position }) => ({
        url: `changes/${id}/edits/${position}/keep`,
        method: 'POST',
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes', 'Fabrics', 'Pools'],
    }),
    prove: b.mutation<ChangeAnswer, string>({
      query: (id) => ({ url: `changes/${id}/prove`, method: 'POST' }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes', 'Fabrics'],
    }),
    approve: b.mutation<ChangeAnswer, { id: string; version: number; note: string }>({
      query: ({ id, version, note }) => ({
        url: `changes/${id}/approve`,
        method: 'POST',
        body: { note },
        headers: seen(version),
      }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes', 'Fabrics'],
    }),
    withdraw: b.mutation<ChangeAnswer, { id: string; version: number }>({
      query: ({ id, version }) => ({ url: `changes/${id}/withdraw`, method: 'POST', headers: seen(version) }),
      onQueryStarted: shown,
      invalidatesTags: ['Changes', 'Fabrics', 'Pools'],
    }),

    rollouts: b.query<RolloutSummary[], void>({
      query: () => 'rollouts',
      extraOptions: WHOLE,
      providesTags: ['Rollouts'],
    }),
    rollOut: b.mutation<RolloutAnswer, RolloutRequest & { readonly version: number }>({
      query: ({ version, ...body }) => ({ url: 'rollouts', method: 'POST', body, headers: seen(version) }),
      invalidatesTags: ['Rollouts', 'Changes', 'Fabrics'],
    }),
    catchUp: b.mutation<RolloutAnswer, string>({
      query: (fabric) => ({ url: `fabrics/${fabric}/catch-up`, method: 'POST', body: {} }),
      invalidatesTags: ['Rollouts', 'Fabrics'],
    }),
    closeRollout: b.mutation<RolloutAnswer, { id: string; reason: string }>({
      query: ({ id, reason }) => ({ url: `rollouts/${id}/close`, method: 'POST', body: { reason } }),
      invalidatesTags: ['Rollouts', 'Changes', 'Fabrics', 'Pools'],
    }),
    rollout: b.query<RolloutAnswer, string>({
      query: (id) => `rollouts/${id}`,
      providesTags: ['Rollouts'],
      /** Follows the server's events while the page is open; a dropped line is taken up again by the browser. */
      async onCacheEntryAdded(id, { updateCachedData, cacheDataLoaded, cacheEntryRemoved, dispatch }) {
        await cacheDataLoaded.catch(() => undefined);
        const events = new EventSource(`/api/rollouts/${id}/events`);
        let state = '';
        events.onmessage = (message: MessageEvent<string>) => {
          const next = JSON.parse(message.data) as RolloutAnswer;
          updateCachedData(() => next);
          if (state !== '' && state !== next.state)
            dispatch(api.util.invalidateTags(['Changes', 'Fabrics', 'Switches', 'Live']));
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

    bench: b.query<BenchAnswer, void>({ query: () => 'bench', providesTags: ['Bench'] }),
    cableBench: b.mutation<{ cabled: number }, { fabric: string; change: string | null }>({
      query: (body) => ({ url: 'bench/cables', method: 'POST', body }),
      invalidatesTags: ['Bench', 'Live'],
    }),
    setFault: b.mutation<unknown, { serial: string; fault: string; on: boolean }>({
      query: (body) => ({ url: 'bench/faults', method: 'POST', body }),
      invalidatesTags: ['Bench'],
    }),
  }),
});

/** The problem behind a failed call, for people and fields. */
export function problemOf(error: unknown): Problem {
  const e = error as FetchBaseQueryError & { data?: Problem };
  if (e && typeof e === 'object' && 'data' in e && e.data && typeof e.data === 'object' && 'findings' in e.data)
    return e.data;
  return {
    type: 'about:blank',
    title: 'No answer',
    status: 0,
    detail: 'The server does not answer. What you typed is still here; try again.',
    findings: [],
  };
}
