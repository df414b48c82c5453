import { parseCookie, stringifySetCookie } from 'cookie';
import type { Request, Response } from 'express';
import type { Caller, NoCaller, Sessions } from '../services/sessions.ts';

/** How cookies are named and sent: with https they are Secure and bound to this host by their name. */
export interface CookieWays {
  readonly secure: boolean;
}
const nameOf = ({ secure }: CookieWays): string => (secure ? '__Host-anthemion' : 'anthemion');

export function putCookie(response: Response, word: string, ways: CookieWays): void {
  response.append(
    'set-cookie',
    stringifySetCookie({
      name: nameOf(ways),
      value: word,
      path: '/',
      httpOnly: true,
      sameSite: 'strict',
      secure: ways.secure,
      ...(word === '' ? { maxAge: 0 } : {}),
    }),
  );
}

/** Does a request show a token of scripts? Browsers never add one by themselves. */
export const showsToken = (request: Request): boolean => request.get('authorization') !== undefined;

const LONGEST = 200;

/** Who calls: by a token, else by a cookie; null = nothing was shown. `touch` says that they were here. */
export async function identify(
  sessions: Sessions,
  ways: CookieWays,
  request: Request,
  touch = true,
): Promise<Caller | NoCaller | null> {
  const authorization = request.get('authorization');
  if (authorization !== undefined) {
    const word = /^Bearer (\S{1,200})$/i.exec(authorization)?.[1];
    return word === undefined
      ? { user: null, why: 'Authorization takes a token: Bearer and the token.' }
      : sessions.byToken(word, touch);
  }
  const word = parseCookie(request.get('cookie') ?? '')[nameOf(ways)];
  if (word === undefined || word === '' || word.length > LONGEST) return null;
  return sessions.bySession(word, request.ip ?? '', touch);
}
