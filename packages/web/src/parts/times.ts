import { format, formatDistanceToNowStrict } from 'date-fns';

/** 11:42, of an ISO time. */
export const clock = (iso: string): string => format(new Date(iso), 'HH:mm');
/** 23 Nov 2026, 11:42 UTC+0 */
export const dated = (iso: string): string => format(new Date(iso), "d MMM yyyy, HH:mm 'UTC'xxx");
const JUST_NOW_MS = 10_000;
/** 23 Nov, 11:42 */
export const dayTime = (iso: string): string => format(new Date(iso), 'd MMM, HH:mm');
/** 3 minutes ago */
export const ago = (iso: string): string =>
  Date.now() - Date.parse(iso) < JUST_NOW_MS ? 'just now' : `${formatDistanceToNowStrict(new Date(iso))} ago`;
/** 41 s between two ISO times; up to now where the second is missing. */
export function spent(from: string | null, to: string | null): string {
  if (from === null) return '';
  const s = Math.max(
    0,
    Math.round(((to === null ? Date.now() : new Date(to).getTime()) - new Date(from).getTime()) / 1000),
  );
  return s < 90 ? `${s} s` : `${Math.round(s / 60)} min`;
}
