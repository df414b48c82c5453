import type { BenchAnswer } from '@anthemion/contract';
import { api } from './api.ts';

/** The stand-in switches of the demo: their cables, their faults, and what somebody at their console does. */
export const benchApi = api.injectEndpoints({
  endpoints: (b) => ({
    bench: b.query<BenchAnswer, void>({ query: () => 'bench', providesTags: ['Bench'] }),
    cableBench: b.mutation<{ cabled: number }, { fabric: string; change: string | null }>({
      query: (body) => ({ url: 'bench/cables', method: 'POST', body }),
      invalidatesTags: ['Bench'],
    }),
    setFault: b.mutation<unknown, { serial: string; fault: string; on: boolean }>({
      query: (body) => ({ url: 'bench/faults', method: 'POST', body }),
      invalidatesTags: ['Bench'],
    }),
    pullCable: b.mutation<unknown, { serial: string; port: string; pulled: boolean }>({
      query: (body) => ({ url: 'bench/pull', method: 'POST', body }),
      invalidatesTags: ['Bench'],
    }),
    swapCables: b.mutation<unknown, Record<'a' | 'b', { serial: string; port: string }>>({
      query: (body) => ({ url: 'bench/swap', method: 'POST', body }),
      invalidatesTags: ['Bench'],
    }),
    editByHand: b.mutation<unknown, { serial: string; file: string; find: string; replace: string }>({
      query: (body) => ({ url: 'bench/hand-edit', method: 'POST', body }),
      invalidatesTags: ['Bench'],
    }),
  }),
});
