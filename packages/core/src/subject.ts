/** What an intent holds, by kind: `fabric` and `spines` are there once, all else has a key. */
export const OBJECT_KINDS = [
  'fabric',
  'spines',
  'setting',
  'pool',
  'model',
  'rackPattern',
  'rack',
  'seat',
  'vrf',
  'network',
  'port',
  'outside',
  'link',
  'drain',
  'policy',
  'neighbour',
  'speakers',
  'route',
  'leak',
  'snippet',
  'secret',
  'waiver',
] as const;
export type ObjectKind = (typeof OBJECT_KINDS)[number];
type Single = 'fabric' | 'spines';

/** Names one object of an intent: `network:echo-store`, `rack:7`, `setting:linkMtu`, `spines`. */
export type Subject = Single | `${Exclude<ObjectKind, Single>}:${string}`;

/** The switches above the racks, as one object. */
export const ABOVE_RACKS: Subject = 'spines';

const isSingle = (kind: ObjectKind): kind is Single => kind === 'fabric' || kind === 'spines';

export const subjectOf = (kind: ObjectKind, key: string): Subject => (isSingle(kind) ? kind : `${kind}:${key}`);

/** Kind and key of a subject; the key of what is there once is empty. */
export function subjectParts(subject: Subject): { readonly kind: ObjectKind; readonly key: string } {
  const at = subject.indexOf(':');
  return at < 0
    ? { kind: subject as ObjectKind, key: '' }
    : { kind: subject.slice(0, at) as ObjectKind, key: subject.slice(at + 1) };
}

/** Does a text from outside name an object? (Whether there is such an object is another question.) */
export function isSubject(text: string): text is Subject {
  const [kind = '', ...key] = text.split(':');
  const known = (OBJECT_KINDS as readonly string[]).includes(kind);
  return known && (isSingle(kind as ObjectKind) ? key.length === 0 : key.join(':') !== '');
}
