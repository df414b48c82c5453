import type { Request, RequestHandler, Response } from 'express';
import { ipKeyGenerator, rateLimit } from 'express-rate-limit';
import { Trouble } from '../trouble.ts';

/** How many failed tries are let through. */
export interface Tries {
  /** A minute and address. */
  readonly perAddress: number;
  /** A quarter of an hour and account, wherever they come from. */
  readonly perAccount: number;
}

/** Counts tries to sign in; throws when there were too many. Tries that come through are not counted. */
export interface SignInLimits {
  readonly address: (request: Request, response: Response) => Promise<void>;
  readonly account: (name: string, request: Request, response: Response) => Promise<void>;
  /** Was the request just refused the first one over its limit? */
  readonly firstOver: (request: Request) => boolean;
}

const MINUTE = 60_000;
const ACCOUNT = Symbol('account');

export function signInLimits(tries: Tries): SignInLimits {
  const limit = (windowMs: number, most: number, keyOf: (request: Request) => string, words: string): RequestHandler =>
    rateLimit({
      windowMs,
      limit: most,
      standardHeaders: 'draft-8',
      legacyHeaders: false,
      skipSuccessfulRequests: true,
      keyGenerator: keyOf,
      handler: (_request, _response, next) => next(new Trouble('too many', words)),
    });
  const address = limit(
    MINUTE,
    tries.perAddress,
    (request) => ipKeyGenerator(request.ip ?? ''),
    'Too many tries to sign in from your address; wait a minute.',
  );
  const account = limit(
    15 * MINUTE,
    tries.perAccount,
    (request) => (request as Request & { [ACCOUNT]?: string })[ACCOUNT] ?? '',
    'Too many tries to sign in to this account; wait a quarter of an hour, or ask who keeps the accounts.',
  );
  return {
    address: (request, response) => pass(address, request, response),
    account: (name, request, response) => {
      (request as Request & { [ACCOUNT]?: string })[ACCOUNT] = name.toLowerCase();
      return pass(account, request, response);
    },
    firstOver: (request) => {
      const { rateLimit: at } = request as Request & { rateLimit?: { readonly used: number; readonly limit: number } };
      return at !== undefined && at.used === at.limit + 1;
    },
  };
}

/** A step of Express as a promise. */
export const pass = (step: RequestHandler, request: Request, response: Response): Promise<void> =>
  new Promise((done, fail) => {
    void step(request, response, (error?: unknown) => {
      if (error === undefined || error === null) done();
      else fail(error instanceof Error ? error : new Error(String(error)));
    });
  });
