import {
  fetchBaseQuery,
  type BaseQueryApi,
  type BaseQueryFn,
  type FetchArgs,
  type FetchBaseQueryError,
  type FetchBaseQueryMeta,
} from '@reduxjs/toolkit/query/react';

/** Told when a call finds nobody signed in; set by the store. */
let onSignedOut: (dispatch: BaseQueryApi['dispatch']) => void = () => undefined;
export const whenSignedOut = (tell: typeof onSignedOut): void => void (onSignedOut = tell);

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
export const signedIn = (): void => {
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
    onSignedOut(tools.dispatch);
    if (tools.type !== 'query') return answer;
    await new Promise<void>((go) => waiting.add(go));
  }
}
/** As the pages ask: whole lists are fetched page by page, and whoever is signed out waits to be signed in again. */
export const baseQuery: BaseQueryFn<
  string | FetchArgs,
  unknown,
  FetchBaseQueryError,
  Extra,
  FetchBaseQueryMeta
> = async (args, tools, extra) => {
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
