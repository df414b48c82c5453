import type { Finding } from '@anthemion/core';
import type { Problem } from '@anthemion/contract';

/** An answer that is no success; becomes problem details (RFC 9457). */
export class HttpProblem extends Error {
  readonly status: number;
  readonly findings: readonly Finding[];
  constructor(status: number, detail: string, findings: readonly Finding[] = []) {
    super(detail);
    this.status = status;
    this.findings = findings;
  }
  get body(): Problem {
    return {
      type: 'about:blank',
      title: TITLES[this.status] ?? 'Problem',
      status: this.status,
      detail: this.message,
      findings: this.findings,
    };
  }
}

const TITLES: Readonly<Record<number, string>> = {
  400: 'The request cannot be read',
  401: 'Not signed in',
  403: 'Not allowed',
  404: 'Not there',
  409: 'Not now',
  412: 'Somebody was faster',
  413: 'Too large',
  422: 'Something is wrong with the input',
  429: 'Too many tries',
  500: 'A fault of ours',
  502: 'No answer from outside',
};

/** 422 with the findings; the first one is the detail. */
export const refused = (findings: readonly Finding[]): HttpProblem =>
  new HttpProblem(
    422,
    findings.map((f) => (f.cure ? `${f.message} ${f.cure}` : f.message))[0] ?? 'The input was refused.',
    findings,
  );
export const notThere = (what: string): HttpProblem => new HttpProblem(404, `There is no ${what}.`);
