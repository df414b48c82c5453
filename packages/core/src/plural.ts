/** `1 rack`, `3 racks`, `2 switches`. */
export const plural = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
