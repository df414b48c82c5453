import type { SecretRef } from '../../secrets/secretRef.ts';
import { changeSentence } from '../collections/sentences.ts';
import { secrets } from '../collections/texts.ts';
import { secretRefSchema } from '../schemas/objects.ts';
import { done, editFields, type EditKindOf } from './edit.ts';

/** Uses a secret, or another value of it; the value itself is sealed elsewhere. */
export interface PutSecret {
  readonly kind: 'putSecret';
  readonly secret: SecretRef;
}

export const putSecret: EditKindOf<PutSecret> = {
  kind: 'putSecret',
  schema: editFields('putSecret', { secret: secretRefSchema }),
  apply: (intent, { secret }) => done(secrets.put(intent, secret.name, secret)),
  sentence: ({ secret }, before) =>
    before?.secrets.some((s) => s.name === secret.name)
      ? changeSentence(before, 'secret', secret.name, secret)
      : `Use secret ${secret.name} (value ${secret.digest.slice(0, 6)}…)`,
  subjects: ({ secret }) => [`secret:${secret.name}`],
  makes: {
    of: 'secret',
    add: (secret) => ({ kind: 'putSecret', secret }),
    change: (secret) => ({ kind: 'putSecret', secret }),
  },
};
