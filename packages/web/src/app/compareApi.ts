import type { BackupAnswer, BackupTextAnswer, FabricBetween, TextsBetween } from '@anthemion/contract';
import { api, asItCame, at, enc, WHOLE, type FabricAt } from './api.ts';
import { computed, one } from './tags.ts';

/** Two moments: `live`, `meant`, `running`, `revision-3`, `kept-17`. */
export interface Moments {
  readonly left: string;
  readonly right: string;
}
const withMoments = (path: string, left: string, right: string): string =>
  `${path}${path.includes('?') ? '&' : '?'}left=${enc(left)}&right=${enc(right)}`;

/** What runs is another with each reading; what was meant is not. */
const since = (f: FabricAt & Moments) => [
  ...computed(f),
  ...([f.left, f.right].includes('running') ? [one('Live', f.name)] : []),
];

/** A fabric at two moments, two switches, and the back-ups of one. */
export const compareApi = api.injectEndpoints({
  endpoints: (b) => ({
    between: b.query<FabricBetween, FabricAt & Moments>({
      query: ({ left, right, ...f }) => withMoments(at(f, '/between'), left, right),
      transformResponse: asItCame,
      providesTags: (_r, _e, f) => since(f),
    }),
    textsBetween: b.query<TextsBetween, FabricAt & Moments & { readonly seat: string; readonly with: string }>({
      query: ({ left, right, seat, with: other, ...f }) =>
        `${withMoments(at(f, `/between/${enc(seat)}`), left, right)}&with=${enc(other)}`,
      transformResponse: asItCame,
      providesTags: (_r, _e, f) => since(f),
    }),
    backups: b.query<BackupAnswer[], string>({
      query: (serial) => `switches/${enc(serial)}/backups`,
      extraOptions: WHOLE,
      providesTags: ['Switches', 'Live'],
    }),
    backup: b.query<BackupTextAnswer, { readonly serial: string; readonly id: number }>({
      query: ({ serial, id }) => `switches/${enc(serial)}/backups/${id}`,
    }),
  }),
});
