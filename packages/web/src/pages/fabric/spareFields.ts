import { saidOf } from '../../parts/said.ts';

/** What a form holds of words that may be left unsaid: empty, or not ticked. */
export type Spare<S extends string, T extends string> = { readonly [K in S]: number | string } & {
  readonly [K in T]: boolean;
};

/** Words of an object as a form shows them: those that are not said are empty, or not ticked. */
export const spareOf = <S extends string, T extends string>(
  item: { readonly [K in S | T]?: unknown },
  spare: readonly S[],
  ticked: readonly T[],
): Spare<S, T> =>
  ({
    ...Object.fromEntries(spare.map((k) => [k, item[k] ?? ''])),
    ...Object.fromEntries(ticked.map((k) => [k, item[k] === true])),
  }) as Spare<S, T>;

/** What a form says: what is empty or not ticked is not said, and numbers are numbers by the schema of each field. */
export const sayingOf = (typed: object, fields: Readonly<Record<string, object>>): Record<string, unknown> =>
  Object.fromEntries(
    Object.entries(saidOf(typed)).map(([k, v]) => {
      const field = fields[k]!;
      return [k, 'type' in field && field.type === 'number' ? Number(v) : v];
    }),
  );
