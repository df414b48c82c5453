import type {
  AccountAnswer,
  AccountPatch,
  AccountRequest,
  AuditCheck,
  AuditEntry,
  GivenPassword,
  NewToken,
  PasswordRequest,
  SecretAnswer,
  SecretRequest,
  SessionRow,
  SwitchAccountAnswer,
  SwitchAccountRequest,
  TokenAnswer,
  TokenRequest,
} from '@anthemion/contract';
import { api, enc, nextMark, WHOLE } from './api.ts';

/** Accounts, sessions, tokens, the audit log, and what opens switches: part of the one api, loaded with the pages that use it. */
export const accessApi = api.injectEndpoints({
  endpoints: (b) => ({
    users: b.query<AccountAnswer[], void>({ query: () => 'users', extraOptions: WHOLE, providesTags: ['Users'] }),
    makeUser: b.mutation<GivenPassword, AccountRequest>({
      query: (body) => ({ url: 'users', method: 'POST', body }),
      invalidatesTags: ['Users'],
    }),
    patchUser: b.mutation<unknown, { name: string } & AccountPatch>({
      query: ({ name, ...body }) => ({ url: `users/${enc(name)}`, method: 'PATCH', body }),
      invalidatesTags: ['Users', 'Sessions', 'Session'],
    }),
    resetUser: b.mutation<GivenPassword, string>({
      query: (name) => ({ url: `users/${enc(name)}/reset`, method: 'POST' }),
      invalidatesTags: ['Users', 'Sessions', 'Session'],
    }),
    deleteUser: b.mutation<unknown, string>({
      query: (name) => ({ url: `users/${enc(name)}`, method: 'DELETE' }),
      invalidatesTags: ['Users', 'Sessions', 'Tokens'],
    }),
    changePassword: b.mutation<unknown, PasswordRequest>({
      query: (body) => ({ url: 'me/password', method: 'POST', body }),
      invalidatesTags: ['Session', 'Sessions', 'Users'],
    }),
    sessions: b.query<SessionRow[], 'own' | 'all'>({
      query: (whose) => (whose === 'own' ? 'me/sessions' : 'sessions'),
      extraOptions: WHOLE,
      providesTags: ['Sessions'],
    }),
    endSession: b.mutation<unknown, { whose: 'own' | 'all'; id: string }>({
      query: ({ whose, id }) => ({
        url: `${whose === 'own' ? 'me/sessions' : 'sessions'}/${enc(id)}`,
        method: 'DELETE',
      }),
      invalidatesTags: ['Sessions', 'Session'],
    }),
    endSessionsOf: b.mutation<{ ended: number }, string>({
      query: (account) => ({ url: 'sessions/end', method: 'POST', body: { account } }),
      invalidatesTags: ['Sessions', 'Session'],
    }),
    tokens: b.query<TokenAnswer[], 'own' | 'all'>({
      query: (whose) => (whose === 'own' ? 'me/tokens' : 'tokens'),
      extraOptions: WHOLE,
      providesTags: ['Tokens'],
    }),
    makeToken: b.mutation<NewToken, TokenRequest>({
      query: (body) => ({ url: 'me/tokens', method: 'POST', body }),
      invalidatesTags: ['Tokens'],
    }),
    endToken: b.mutation<unknown, { whose: 'own' | 'all'; id: string }>({
      query: ({ whose, id }) => ({ url: `${whose === 'own' ? 'me/tokens' : 'tokens'}/${enc(id)}`, method: 'DELETE' }),
      invalidatesTags: ['Tokens'],
    }),
    /** One page of the log; `after` is the mark of the page before. */
    audit: b.query<{ entries: AuditEntry[]; next: string | null }, Readonly<Record<string, string>>>({
      query: (params) => ({ url: 'audit', params }),
      transformResponse: (entries: AuditEntry[], meta) => ({ entries, next: nextMark(meta) }),
      providesTags: ['Audit'],
      keepUnusedDataFor: 0,
    }),
    checkAudit: b.mutation<AuditCheck, void>({ query: () => 'audit/check' }),
    switchAccounts: b.query<SwitchAccountAnswer[], void>({
      query: () => 'switch-accounts',
      providesTags: ['SwitchAccounts'],
    }),
    putSwitchAccount: b.mutation<unknown, { name: string } & SwitchAccountRequest>({
      query: ({ name, ...body }) => ({ url: `switch-accounts/${enc(name)}`, method: 'PUT', body }),
      invalidatesTags: ['SwitchAccounts'],
    }),
    deleteSwitchAccount: b.mutation<unknown, string>({
      query: (name) => ({ url: `switch-accounts/${enc(name)}`, method: 'DELETE' }),
      invalidatesTags: ['SwitchAccounts'],
    }),
    secrets: b.query<SecretAnswer[], void>({ query: () => 'secrets', providesTags: ['Secrets'] }),
    putSecret: b.mutation<SecretAnswer, { name: string } & SecretRequest>({
      query: ({ name, ...body }) => ({ url: `secrets/${enc(name)}`, method: 'PUT', body }),
      invalidatesTags: ['Secrets'],
    }),
    deleteSecret: b.mutation<unknown, string>({
      query: (name) => ({ url: `secrets/${enc(name)}`, method: 'DELETE' }),
      invalidatesTags: ['Secrets'],
    }),
  }),
});
