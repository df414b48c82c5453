import { useState, type ReactNode } from 'react';
import { useController, useFormContext } from 'react-hook-form';
import { Bad } from './basics.tsx';
import { Choice, TextInput, Tick, type Option } from './fields.tsx';

interface FieldProps {
  readonly name: string;
  readonly label: string;
  readonly hint?: ReactNode;
  readonly placeholder?: string;
}

/** What a field with several values says first. */
const firstMessage = (error: unknown): string | undefined => {
  if (typeof error !== 'object' || error === null) return undefined;
  const { message } = error as { readonly message?: unknown };
  if (typeof message === 'string' && message !== '') return message;
  for (const part of Object.values(error)) {
    const found = firstMessage(part);
    if (found !== undefined) return found;
  }
  return undefined;
};

/** A field of the form around it: what it holds, and what is said of it. */
export function useField(name: string) {
  const { control } = useFormContext();
  const { field, fieldState } = useController({ control, name });
  return {
    value: field.value as unknown,
    onChange: field.onChange,
    onBlur: field.onBlur,
    error: firstMessage(fieldState.error),
  };
}

/** A line or, with `lines`, several lines of text. */
export function TextField({
  name,
  ...more
}: FieldProps & {
  readonly code?: boolean;
  readonly type?: 'text' | 'password';
  readonly lines?: number;
  readonly autoFocus?: boolean;
  readonly isRequired?: boolean;
}) {
  const { value, error, ...field } = useField(name);
  return <TextInput {...field} value={String(value ?? '')} error={error} {...more} />;
}

/** A number; empty is no number at all, so that the default or the schema speaks. */
export function NumberField({ name, ...more }: FieldProps & { readonly isRequired?: boolean }) {
  const { value, onChange, onBlur, error } = useField(name);
  const numberOf = (text: string): unknown =>
    text.trim() === '' ? undefined : /^-?\d+$/.test(text.trim()) ? Number(text) : text;
  return (
    <TextInput
      value={String(value ?? '')}
      onChange={(text) => onChange(numberOf(text))}
      onBlur={onBlur}
      error={error}
      {...more}
    />
  );
}

/**
 * A text that stands for something else: a list one a line, rack numbers as 1-3, 7. What cannot be read stays as typed, and
 * `bad` says how it is written.
 */
export function ParsedField<V>({
  name,
  parse,
  show,
  bad,
  ...more
}: FieldProps & {
  readonly parse: (text: string) => V | null;
  readonly show: (value: V) => string;
  readonly bad: string | ((text: string) => string | undefined);
  readonly lines?: number;
  readonly code?: boolean;
}) {
  const { value, onChange, onBlur, error } = useField(name);
  const [text, setText] = useState<string | null>(null);
  // The text as it was typed, while it says what the form holds; else the form got another value since.
  const says = text !== null && JSON.stringify(parse(text) ?? text) === JSON.stringify(value);
  const typed = says ? text : typeof value === 'string' ? value : show(value as V);
  return (
    <TextInput
      value={typed}
      onChange={(t) => {
        setText(t);
        onChange(parse(t) ?? t);
      }}
      onBlur={onBlur}
      error={parse(typed) === null ? (typeof bad === 'string' ? bad : bad(typed)) : error}
      {...more}
    />
  );
}

/** Several of a few words, each a tick. */
export function TicksField({ name, options }: { readonly name: string; readonly options: readonly Option[] }) {
  const { value, onChange, error } = useField(name);
  const chosen = new Set(Array.isArray(value) ? (value as string[]) : []);
  return (
    <>
      {options.map((o) => (
        <Tick
          key={o.id}
          label={o.name}
          {...(o.note ? { hint: o.note } : {})}
          value={chosen.has(o.id)}
          onChange={(on) => onChange(options.map((x) => x.id).filter((id) => (id === o.id ? on : chosen.has(id))))}
        />
      ))}
      {error !== undefined && (
        <Bad as="p" role="alert">
          {error}
        </Bad>
      )}
    </>
  );
}

const linesOf = (text: string): string[] =>
  text
    .split(/[\n,]/)
    .map((r) => r.trim())
    .filter((r) => r !== '');
/** Several texts, one a line. */
export const LinesField = (props: FieldProps & { readonly lines: number }) => (
  <ParsedField {...props} parse={linesOf} show={(v: readonly string[]) => v.join('\n')} bad="" />
);

/** Stands for an empty value: a list has no empty key. */
const NONE = '-';

/** One of several; `none` = the words for an empty value, where that is a choice like the others. */
export function ChoiceField({
  name,
  none,
  options,
  ...more
}: FieldProps & { readonly options: readonly Option[]; readonly none?: string }) {
  const { value, onChange, onBlur, error } = useField(name);
  const said = String(value ?? '');
  return (
    <Choice
      value={none !== undefined && said === '' ? NONE : said}
      onChange={(v) => {
        onChange(none !== undefined && v === NONE ? '' : v);
        onBlur();
      }}
      options={none === undefined ? options : [...options, { id: NONE, name: none }]}
      error={error}
      {...more}
    />
  );
}

export function TickField({
  name,
  ...more
}: {
  readonly name: string;
  readonly label: string;
  readonly hint?: string;
}) {
  const { value, onChange, error } = useField(name);
  return <Tick value={value === true} onChange={onChange} error={error} {...more} />;
}
