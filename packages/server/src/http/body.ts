import { checkShape, LARGE_BODY, PLAIN_BODY, validateBody, type Route } from '@anthemion/contract';
import express, { type Request, type Response } from 'express';
import { refused, Trouble } from '../trouble.ts';
import { pass } from './limits.ts';

/** Bytes a body may have: before anybody is known, usually, and for long lists. */
const BEFORE_SIGN_IN = 4_096;
const PLAIN = 262_144;
const LARGE = 8 * 1_048_576;

const reader = (limit: number) => ({ limit, read: express.json({ limit, inflate: false, strict: true }) });
const [small, plain, large] = [reader(BEFORE_SIGN_IN), reader(PLAIN), reader(LARGE)];
const inKilobytes = (bytes: number): string => (bytes < 1_048_576 ? `${bytes / 1024} kB` : `${bytes / 1_048_576} MB`);

/** Reads the body of a call and checks size, build and, where the route has one, schema, in this order. */
export async function readBody(route: Route, request: Request, response: Response): Promise<unknown> {
  const hasBody = Number(request.get('content-length') ?? 0) > 0 || request.get('transfer-encoding') !== undefined;
  if (hasBody && !request.is('application/json'))
    throw new Trouble('unreadable', 'Bodies are JSON: send content-type application/json.');
  const { limit, read } = route.access === 'anyone' ? small : route.large ? large : plain;
  try {
    await pass(read, request, response);
  } catch (error) {
    throw bodyTrouble(error as Error & { type?: string; status?: number }, limit);
  }
  const body: unknown = request.body;
  const build = checkShape(body, route.large ? LARGE_BODY : PLAIN_BODY);
  if (build) throw refused([build]);
  if (!route.body) return body;
  const checked = validateBody(route.body, body ?? {});
  if ('findings' in checked) throw refused(checked.findings);
  return checked.value;
}

function bodyTrouble(error: Error & { type?: string; status?: number }, limit: number): Error {
  if (error.type === 'entity.too.large')
    return new Trouble('too large', `The body is larger than ${inKilobytes(limit)}.`);
  if (error.type === 'encoding.unsupported')
    return new Trouble('unreadable', 'Bodies are sent as they are: without content-encoding.');
  if (error.status !== undefined && error.status < 500)
    return new Trouble('unreadable', `The request cannot be read: ${error.message.slice(0, 200)}`);
  return error;
}
