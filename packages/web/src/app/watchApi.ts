import type {
  AdoptAnswer,
  ClashAnswer,
  DayAnswer,
  HereRequest,
  LiveAnswer,
  PastCause,
  PresentPerson,
  RolloutAnswer,
  TouchAnswer,
  RehearsalAnswer,
} from '@anthemion/contract';
import { api, asItCame, at, enc, WHOLE, type FabricAt } from './api.ts';
import { computed, edited, listOf, one } from './tags.ts';

/** What was read of switches, the two answers to hand edits, the day sheet, and who is here. */
export const watchApi = api.injectEndpoints({
  endpoints: (b) => ({
    live: b.query<LiveAnswer, FabricAt>({
      query: (f) => at(f, '/live'),
      transformResponse: asItCame,
      providesTags: (_r, _e, { name, change }) => [
        one('Live', name),
        ...(change === null ? [] : [one('Draft', change)]),
      ],
    }),
    readFabric: b.mutation<LiveAnswer, FabricAt>({
      query: (f) => ({ url: at(f, '/read'), method: 'POST' }),
      invalidatesTags: (_r, _e, { name }) => [one('Live', name), 'Day'],
    }),
    causes: b.query<PastCause[], string>({
      query: (name) => `fabrics/${name}/causes`,
      extraOptions: WHOLE,
      providesTags: (_r, _e, name) => [one('Live', name)],
    }),
    putBack: b.mutation<
      RolloutAnswer,
      { fabric: string; serials: readonly string[]; reason: string; together: boolean }
    >({
      query: ({ fabric, ...body }) => ({ url: `fabrics/${fabric}/put-back`, method: 'POST', body }),
      invalidatesTags: [listOf('Rollouts'), 'Day'],
    }),
    adoptPreview: b.query<AdoptAnswer, { fabric: string; serials: readonly string[]; change: string | null }>({
      query: ({ fabric, ...body }) => ({ url: `fabrics/${fabric}/adopt/preview`, method: 'POST', body }),
      providesTags: (_r, _e, { fabric }) => [one('Live', fabric)],
    }),
    adopt: b.mutation<
      AdoptAnswer & { change: string },
      {
        fabric: string;
        serials: readonly string[];
        change: string | null;
        title: string;
        reason: string;
        ticket: string;
      }
    >({
      query: ({ fabric, ...body }) => ({ url: `fabrics/${fabric}/adopt`, method: 'POST', body }),
      invalidatesTags: (done) => [
        listOf('Changes'),
        'Day',
        ...(done ? [one('Changes', done.change), ...edited(done.change)] : []),
      ],
    }),
    day: b.query<DayAnswer, void>({ query: () => 'day', providesTags: ['Day'] }),
    touched: b.query<TouchAnswer | null, FabricAt & { readonly at: string }>({
      query: ({ name, change, at: subject }) => ({
        url: `fabrics/${name}/touched`,
        params: { at: subject, ...(change === null ? {} : { change }) },
      }),
      providesTags: (_r, _e, f) => computed(f),
    }),
    here: b.query<PresentPerson[], string>({
      query: (fabric) => ({ url: 'here', params: { fabric } }),
      providesTags: (_r, _e, fabric) => [one('Here', fabric)],
    }),
    sayHere: b.mutation<unknown, HereRequest>({ query: (body) => ({ url: 'here', method: 'PUT', body }) }),
    outOfService: b.mutation<unknown, { serial: string; reason: string }>({
      query: ({ serial, reason }) => ({
        url: `switches/${enc(serial)}/out-of-service`,
        method: 'POST',
        body: { reason },
      }),
      invalidatesTags: ['Switches'],
    }),
    inService: b.mutation<unknown, string>({
      query: (serial) => ({ url: `switches/${enc(serial)}/in-service`, method: 'POST' }),
      invalidatesTags: ['Switches'],
    }),
    rehearsal: b.query<RehearsalAnswer | null, string>({
      query: (id) => `changes/${id}/rehearsal`,
      providesTags: (_r, _e, id) => [one('Rehearsal', id)],
    }),
    rehearse: b.mutation<RehearsalAnswer, string>({
      query: (id) => ({ url: `changes/${id}/rehearsal`, method: 'POST' }),
      invalidatesTags: (_r, _e, id) => [one('Rehearsal', id)],
    }),
    clashes: b.query<ClashAnswer[], { id: string; fabric: string }>({
      query: ({ id }) => `changes/${id}/clashes`,
      providesTags: (_r, _e, { id, fabric }) => [one('Draft', id), one('Draft', `of ${fabric}`)],
    }),
  }),
});
