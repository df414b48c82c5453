/** What the server's answers are known by in the store. */
export const TAGS = [
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
  'Draft',
  'Day',
  'Here',
  'Rehearsal',
] as const;

/** Tag of one thing, and of the lists it stands in. */
type Kind = 'Changes' | 'Fabrics' | 'Rollouts';
const LIST = 'LIST';
export const one = (type: Kind | 'Live' | 'Draft' | 'Here' | 'Rehearsal', id: string) => ({ type, id }) as const;
export const listOf = (type: Kind) => ({ type, id: LIST }) as const;
/** What follows from a fabric as it is live, or as a change would have it: `Draft` is what a change makes of it. */
export const computed = ({ name, change }: { readonly name: string; readonly change: string | null }) => [
  one('Fabrics', name),
  ...(change === null ? [] : [one('Draft', change)]),
];
/** What an edit of a change makes stale: what is computed from it, the lists, and what it draws. */
export const edited = (id: string) => [one('Draft', id), listOf('Changes'), listOf('Fabrics'), 'Pools', 'Day'] as const;
