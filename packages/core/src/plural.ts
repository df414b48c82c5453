/** `1 rack`, `3 racks`. */
export const plural = (n: number, one: string): string => `${n} ${n === 1 ? one : `${one}s`}`;
