/**
 * The path of a place within a value: names of fields, and what members of lists are called by (see `members` of the
 * sections). A list of plain words is one place.
 */
export type PathIn<T> = T extends readonly (infer Item)[]
  ? Item extends object
    ? readonly [] | readonly [key: string, ...path: PathIn<Item>]
    : readonly []
  : T extends object
    ? string extends keyof T
      ? readonly [] | readonly [key: string]
      : | readonly []
        | { [K in keyof T & string]-?: readonly [field: K, ...path: PathIn<NonNullable<T[K]>>] }[keyof T & string]
    : readonly [];
