import type { RequestHandler } from 'express';
import { notAllowed, Trouble } from '../trouble.ts';
import { showsToken } from './identity.ts';

/** Host name of a Host header: without port, in lower case. */
const hostName = (host: string): string => host.toLowerCase().replace(/:\d{1,5}$/, '');

/** Refuses requests for another host: a page elsewhere whose name is made to point here could ask in the user's name. */
export const onlyHosts =
  (hosts: ReadonlySet<string>): RequestHandler =>
  (request, _response, next) => {
    const host = request.get('host') ?? '';
    next(
      hosts.has(hostName(host))
        ? undefined
        : new Trouble(
            'wrong host',
            `This server does not answer to the name ${JSON.stringify(host.slice(0, 100))}; if it should, name it in publicUrl or hosts.`,
          ),
    );
  };

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

/**
 * Refuses what other sites make a browser send. Browsers say where a request comes from (Sec-Fetch-Site, Origin); what says
 * neither is no browser of today, and is let through with its own cookie or token.
 */
export const onlyOwnPages =
  (publicUrl: string): RequestHandler =>
  (request, _response, next) => {
    const site = request.get('sec-fetch-site');
    if (site !== undefined && site !== 'same-origin' && site !== 'none') return next(fromElsewhere(site));
    const origin = request.get('origin');
    if (SAFE.has(request.method) || origin === undefined || showsToken(request)) return next();
    const own = publicUrl === '' ? [] : [new URL(publicUrl).origin];
    const [scheme = '', host = ''] = origin.split('://');
    if (own.includes(origin) || (host === request.get('host') && scheme === request.protocol)) return next();
    next(fromElsewhere(origin.slice(0, 100)));
  };
const fromElsewhere = (where: string): Trouble =>
  notAllowed(`This request comes from a page of another site (${where}); only pages of this server may ask.`);
