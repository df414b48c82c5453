import type { Finding } from '@anthemion/core';
import { yupResolver } from '@hookform/resolvers/yup';
import { createContext, useContext, useEffect, useRef, useState, type ReactNode } from 'react';
import {
  FormProvider,
  useForm,
  type DefaultValues,
  type FieldValues,
  type Path,
  type Resolver,
  type UseFormReturn,
} from 'react-hook-form';
import type { AnyObject, AnySchema, ObjectSchema } from 'yup';
import { Button, Row } from './basics.tsx';
import { Leftovers } from './fields.tsx';

export * from './FormFields.tsx';

/** Why a form was not taken: findings that point at fields, and a sentence for the whole. */
export interface NotTaken {
  readonly findings: readonly Finding[];
  readonly detail: string;
}

/** The same schema, where these fields may be left empty: their values are proposed. */
export function mayBeEmpty(schema: AnySchema, ...fields: string[]): AnySchema {
  const whole = schema as ObjectSchema<AnyObject>;
  return whole.shape(
    Object.fromEntries(
      fields.map((f) => [
        f,
        (whole.fields[f] as AnySchema)
          .transform((v: unknown, typed: unknown) => (typed === '' ? undefined : v))
          .optional(),
      ]),
    ),
  ) as unknown as AnySchema;
}

interface FormOptions<T> {
  /** The contract's schema: the same that the server judges by. */
  readonly schema: AnySchema;
  /** What the form holds at first. */
  readonly initial: T;
  /** Name under which what is typed is kept until it is taken, through a reload or an expired session; absent = not kept. */
  readonly keep?: string;
  /** Where the findings of the server begin, such as `/edits/0/network`; empty = at the body itself. */
  readonly base?: string;
}

export interface FormPart<T extends FieldValues> {
  readonly rhf: UseFormReturn<T>;
  /** What no field takes. */
  readonly leftover: NotTaken | null;
  /** Something was typed in an earlier visit and never sent. */
  readonly restored: boolean;
  /** Sends what stands in the form, once it is sound; null = it was taken. */
  readonly submit: (send: (values: T) => Promise<NotTaken | null>) => Promise<void>;
  /** What was typed is given up. */
  readonly forget: () => void;
}

const PREFIX = 'anthemion-form ';
function keptOf<T>(keep: string | undefined): T | null {
  try {
    return keep === undefined ? null : (JSON.parse(sessionStorage.getItem(PREFIX + keep) ?? 'null') as T | null);
  } catch {
    return null;
  }
}

/** `/edits/0/network/vlan` under `/edits/0/network` → `vlan`; null = it is not about a field of the form. */
export function fieldOf(path: string | undefined, base = ''): string | null {
  if (path === undefined || !path.startsWith(`${base}/`)) return null;
  return path.slice(base.length + 1).replaceAll('/', '.');
}

/**
 * One form: checked by the contract's schema as each field is left, by the server when it is sent; both speak at the field.
 * Nothing typed is lost by an error, and, with a name to keep it under, by a reload.
 */
export function useFormPart<T extends FieldValues>({ schema, initial, keep, base = '' }: FormOptions<T>): FormPart<T> {
  const [kept] = useState(() => keptOf<T>(keep));
  const rhf = useForm<T>({
    defaultValues: { ...initial, ...kept } as DefaultValues<T>,
    resolver: yupResolver(schema as never) as unknown as Resolver<T>,
    mode: 'onTouched',
  });
  const [leftover, setLeftover] = useState<NotTaken | null>(null);
  const shown = JSON.stringify(initial);
  const filledWith = useRef(shown);
  useEffect(() => {
    if (keep !== undefined || filledWith.current === shown) return;
    filledWith.current = shown;
    // What a colleague changed meanwhile shows in every field that was not typed in.
    rhf.reset(initial, { keepDirtyValues: true, keepErrors: true });
  }, [rhf, keep, shown, initial]);
  useEffect(() => {
    if (keep === undefined) return;
    const { unsubscribe } = rhf.watch((values) => {
      try {
        sessionStorage.setItem(PREFIX + keep, JSON.stringify(values));
      } catch {
        // Larger than the browser keeps: better not kept than a part of it.
        sessionStorage.removeItem(PREFIX + keep);
      }
    });
    return unsubscribe;
  }, [rhf, keep]);
  const forget = (): void => {
    if (keep !== undefined) sessionStorage.removeItem(PREFIX + keep);
  };
  const underWay = useRef(false);
  const take: FormPart<T>['submit'] = (send) =>
    rhf.handleSubmit(async () => {
      // As typed: what the schema makes of it is the server's to say.
      const no = await send(rhf.getValues());
      if (no === null) {
        setLeftover(null);
        forget();
        // What was taken is no longer typed: it follows what comes of it, as when it is undone.
        if (keep === undefined) rhf.reset(rhf.getValues());
        return;
      }
      const rest: Finding[] = [];
      for (const f of no.findings) {
        const field = fieldOf(f.path, base);
        const known = field !== null && field.split('.')[0]! in rhf.getValues();
        if (known)
          rhf.setError(field as Path<T>, { type: 'server', message: f.cure ? `${f.message} ${f.cure}` : f.message });
        else rest.push(f);
      }
      setLeftover(rest.length > 0 || no.findings.length === 0 ? { findings: rest, detail: no.detail } : null);
    })();
  // A second click comes before the button knows that it is disabled.
  const submit: FormPart<T>['submit'] = async (send) => {
    if (underWay.current) return;
    underWay.current = true;
    try {
      await take(send);
    } finally {
      underWay.current = false;
    }
  };
  return { rhf, leftover, restored: kept !== null, submit, forget };
}

/** What ends the form around it: it was taken, or is given up; null = it stays. */
const Ending = createContext<(() => void) | null>(null);
const Sending = createContext(false);
/** Is the form around it being sent? */
export const useSending = (): boolean => useContext(Sending);

/**
 * The form around its fields; what no field takes stands at its foot, above its buttons.
 * @param onEnd it was taken, or given up by its button; absent = it stays
 */
export function Form<T extends FieldValues>({
  part,
  onSend,
  onEnd,
  children,
  buttons,
}: {
  readonly part: FormPart<T>;
  readonly onSend: (values: T) => Promise<NotTaken | null>;
  readonly onEnd?: () => void;
  readonly children: ReactNode;
  readonly buttons: ReactNode;
}) {
  const end = onEnd
    ? (): void => {
        part.forget();
        onEnd();
      }
    : null;
  const { watch } = part.rhf;
  // Taken, it goes away: a second click that comes before that is none of what is typed next.
  const over = useRef(false);
  useEffect(() => {
    const { unsubscribe } = watch((_, { type }) => {
      if (type === 'change') over.current = false;
    });
    return unsubscribe;
  }, [watch]);
  return (
    <FormProvider {...part.rhf}>
      <Ending.Provider value={end}>
        <Sending.Provider value={part.rhf.formState.isSubmitting}>
          <form
            noValidate
            onSubmit={(e) => {
              e.preventDefault();
              if (over.current) return;
              void part.submit(async (values) => {
                const refused = await onSend(values);
                if (refused === null && end) {
                  over.current = true;
                  end();
                }
                return refused;
              });
            }}
            style={{ display: 'flex', flexDirection: 'column', gap: 12 }}
          >
            {children}
            {part.leftover && <Leftovers findings={part.leftover.findings} detail={part.leftover.detail} />}
            {buttons}
          </form>
        </Sending.Provider>
      </Ending.Provider>
    </FormProvider>
  );
}

/** The buttons at the foot of a form: the one that sends it, others, and the one that gives it up, where that ends it. */
export function FormButtons({
  yes,
  kind = 'main',
  isDisabled = false,
  no = 'Cancel',
  onNo,
  children,
}: {
  readonly yes: string;
  readonly kind?: 'main' | 'danger';
  readonly isDisabled?: boolean;
  readonly no?: string;
  readonly onNo?: () => void;
  readonly children?: ReactNode;
}) {
  const isSending = useSending();
  const end = useContext(Ending);
  const givesUp = onNo ?? end;
  return (
    <Row $wrap>
      <Button type="submit" $kind={kind} isDisabled={isDisabled || isSending}>
        {yes}
      </Button>
      {children}
      {givesUp && <Button onPress={givesUp}>{no}</Button>}
    </Row>
  );
}
