import type { Field } from './collection.ts';

/** What is said of sessions of BGP in fields. */

/** A list of prefixes, written one after another; empty has a word of its own. */
export const prefixes = <K extends string>(
  key: K,
  label: string,
  empty: string,
  nothing?: readonly string[],
): Field<{ readonly [P in K]?: readonly string[] }> => ({
  key,
  label,
  empty,
  value: (n) => n[key],
  text: (n) => (n[key] ?? []).join(', '),
  read: (text) => (text === empty ? nothing : text.split(/[\s,;]+/).filter((t) => t !== '')),
});

/** Something that is on, or is not said. */
export const onOff = <K extends string>(key: K, label: string): Field<{ readonly [P in K]?: true }> => ({
  key,
  label,
  value: (n) => n[key],
  text: (n) => (n[key] === true ? 'on' : ''),
  empty: 'off',
  read: (text) => (/^on$/i.test(text) ? true : /^(off)?$/i.test(text) ? undefined : null),
  form: 'Write on or off.',
});
