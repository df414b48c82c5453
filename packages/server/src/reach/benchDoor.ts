import type { BenchAnswer } from '@anthemion/contract';
import { Trouble, type TroubleKind } from '../trouble.ts';

const KINDS: Readonly<Record<number, TroubleKind>> = { 404: 'not there', 409: 'not now', 422: 'refused' };

/** The control door of a bench that runs beside the server. */
export class BenchDoor {
  private readonly url: string;
  private readonly token: string;
  constructor(url: string, token: string) {
    this.url = url;
    this.token = token;
  }
  async ask(method: 'GET' | 'POST' | 'PUT', path: string, body?: unknown): Promise<unknown> {
    let answer: Response;
    try {
      answer = await fetch(`${this.url}${path}`, {
        method,
        headers: { authorization: `Bearer ${this.token}`, 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
    } catch {
      throw new Trouble('no answer', 'The bench does not answer.');
    }
    const said = (await answer.json()) as { detail?: string };
    if (!answer.ok) throw new Trouble(KINDS[answer.status] ?? 'no answer', said.detail ?? 'The bench refuses.');
    return said;
  }
  fleet(): Promise<BenchAnswer> {
    return this.ask('GET', '/fleet') as Promise<BenchAnswer>;
  }
}
