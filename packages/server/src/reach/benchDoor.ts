import type { BenchAnswer } from '@anthemion/contract';
import { HttpProblem } from '../http/problem.ts';

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
      throw new HttpProblem(502, 'The bench does not answer.');
    }
    const said = (await answer.json()) as { detail?: string };
    if (!answer.ok)
      throw new HttpProblem(answer.status === 401 ? 502 : answer.status, said.detail ?? 'The bench refuses.');
    return said;
  }
  fleet(): Promise<BenchAnswer> {
    return this.ask('GET', '/fleet') as Promise<BenchAnswer>;
  }
}
