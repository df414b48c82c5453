/** Is something typed there? An empty text, no tick and an empty list say nothing. */
export const isSaid = (value: unknown): boolean =>
  Array.isArray(value) ? value.length > 0 : value !== '' && value !== undefined && value !== false;
/** The fields that say something. */
export const saidOf = (fields: object): Record<string, unknown> =>
  Object.fromEntries(Object.entries(fields).filter(([, v]) => isSaid(v)));
