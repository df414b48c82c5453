import type { SecretRef } from '../../secrets/secretRef.ts';
import type { Snippet } from '../intent.ts';
import { secretRefSchema, snippetSchema } from '../schemas/objects.ts';
import { listOf, words } from './collection.ts';

const lineCount = (text: string): string => {
  const n = text.trimEnd().split('\n').length;
  return `${n} ${n === 1 ? 'line' : 'lines'}`;
};

export const snippets = listOf('snippets', (s) => s.name, {
  kind: 'snippet',
  word: 'snippet',
  schema: snippetSchema,
  freeing: 'Change that snippet first.',
  fields: [
    words<Snippet, 'file'>('file', 'file'),
    words<Snippet, 'on'>('on', 'switches'),
    { key: 'text', label: 'text', value: (s) => s.text, text: (s) => lineCount(s.text) },
    {
      key: 'runsElsewhere',
      label: 'runs elsewhere',
      value: (s) => s.runsElsewhere === true,
      text: (s) => (s.runsElsewhere ? 'yes' : 'no'),
    },
  ],
  refers: (s) => secretsNamed(s.text).map((name) => ({ to: `secret:${name}`, ends: 'holds' }) as const),
});

export const secrets = listOf('secrets', (s) => s.name, {
  kind: 'secret',
  word: 'secret',
  schema: secretRefSchema,
  lately: true,
  freeing: 'Use that secret no more first.',
  fields: [
    {
      key: 'digest',
      label: 'value',
      value: (s: SecretRef) => s.digest,
      text: (s: SecretRef) => `${s.digest.slice(0, 6)}…`,
    },
  ],
});

/** Secrets a template names: `secrets.spine-bgp`, `secrets['spine-bgp']`. */
function secretsNamed(text: string): string[] {
  const names = [...text.matchAll(/secrets\.([\w-]+)/g), ...text.matchAll(/secrets\[['"]([^'"\]]+)['"]/g)];
  return [...new Set(names.map((m) => m[1]!))];
}
