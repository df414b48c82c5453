/** A line of a table of figures. */
export type FigureRow = readonly [what: string, value: string, aim: string];

export const say = (text: string): void => void process.stderr.write(`${text}\n`);
export const ms = (n: number): string => `${n < 10 ? n.toFixed(1) : Math.round(n)} ms`;
export const percentile = (values: readonly number[], p: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * p))]!;
/** Who makes what is measured. */
export const BY = { name: 'ines', mayScript: false };
