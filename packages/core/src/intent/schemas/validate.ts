import { capital } from '../../capital.ts';
import { ValidationError } from 'yup';
import { problem, type Finding } from '../../finding.ts';

/** `racks[0].pattern` → `/racks/0/pattern`. */
export const pointer = (path: string | undefined): string =>
  path
    ? `/${path.replaceAll('["', '.').replaceAll('"]', '').replaceAll('[', '.').replaceAll(']', '').split('.').filter(Boolean).join('/')}`
    : '';

const sentence = (text: string): string => `${capital(text)}${/[.!?]$/.test(text) ? '' : '.'}`;

/** So much is said of one input: who reads more has stopped reading. */
const FINDINGS_SAID = 50;
const LONGEST_SENTENCE = 300;
const short = (text: string): string => (text.length > LONGEST_SENTENCE ? `${text.slice(0, LONGEST_SENTENCE)}…` : text);

/**
 * Validates input by a schema: the value as the schema casts it, or findings that point to the fields, at most fifty, each
 * of a readable length whatever the input holds.
 */
export function validate<T>(
  schema: { validateSync: (value: unknown, options: object) => unknown },
  value: unknown,
): { readonly value: T } | { readonly findings: Finding[] } {
  try {
    return { value: schema.validateSync(value, { abortEarly: false, strict: false, stripUnknown: false }) as T };
  } catch (error) {
    if (!(error instanceof ValidationError)) throw error;
    const errors = error.inner.length > 0 ? error.inner : [error];
    return {
      findings: errors
        .slice(0, FINDINGS_SAID)
        .map((e) => problem('form', pointer(e.path).slice(0, LONGEST_SENTENCE), short(sentence(e.message)))),
    };
  }
}
