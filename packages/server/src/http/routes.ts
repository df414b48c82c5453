import { ROUTES, validateBody, type Role, type RouteName, type User } from '@anthemion/contract';
import type { Request, Response, Router } from 'express';
import { HttpProblem, refused } from './problem.ts';

export interface Call {
  readonly params: Readonly<Record<string, string>>;
  readonly query: Readonly<Record<string, string>>;
  /** The body as its schema cast it. */
  readonly body: unknown;
  /** Who calls; for routes open to anyone it may be a stand-in without roles. */
  readonly user: User;
  readonly request: Request;
  readonly response: Response;
}
/** Answers a call with JSON; undefined when the handler has answered by itself. */
export type Handler = (call: Call) => Promise<unknown>;
export type Handlers = Partial<Record<RouteName, Handler>>;

const NOBODY: User = { name: '', fullName: '', roles: [], admin: false };
const may = (user: User, access: string): boolean =>
  access === 'signed in' || (access === 'admin' ? user.admin : user.roles.includes(access as Role));

/**
 * Serves the handlers under the routes of the contract. Session and role are checked and the body is validated here, by
 * the contract's table, so that no handler can forget it.
 */
export function serveRoutes(
  router: Router,
  handlers: Handlers,
  userOf: (request: Request) => Promise<User | null>,
): void {
  for (const [name, handler] of Object.entries(handlers) as [RouteName, Handler][]) {
    const [method, path] = name.split(' ') as [string, string];
    const route: { access: string; body?: Parameters<typeof validateBody>[0] } = ROUTES[name];
    const serve = async (request: Request, response: Response): Promise<void> => {
      const user = await userOf(request);
      if (route.access !== 'anyone') {
        if (!user) throw new HttpProblem(401, 'Sign in first.');
        if (!may(user, route.access))
          throw new HttpProblem(
            403,
            `This takes the role ${route.access}; ${user.name} has ${user.roles.join(', ') || 'none'}.`,
          );
      }
      let body: unknown = request.body;
      if (route.body) {
        const checked = validateBody(route.body, request.body ?? {});
        if ('findings' in checked) throw refused(checked.findings);
        body = checked.value;
      }
      const query = Object.fromEntries(
        Object.entries(request.query).flatMap(([k, v]) => (typeof v === 'string' ? [[k, v]] : [])),
      );
      const params = request.params as Record<string, string>;
      const answer = await handler({ params, query, body, user: user ?? NOBODY, request, response });
      if (!response.headersSent && !response.writableEnded) response.json(answer ?? { done: true });
    };
    router[method.toLowerCase() as 'get'](path, (request, response, next) => {
      serve(request, response).catch(next);
    });
  }
}
