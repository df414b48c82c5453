const STEPS = [
  [1e9, 'Gbit/s'],
  [1e6, 'Mbit/s'],
  [1e3, 'kbit/s'],
] as const;

/** Bits per second as people read them, three digits at most: `3.2 kbit/s`, `40 Mbit/s`. */
export function bitRate(bits: number): string {
  const [size, unit] = STEPS.find(([least]) => bits >= least * 0.9995) ?? [1, 'bit/s'];
  const n = bits / size;
  return `${n >= 99.95 ? Math.round(n) : Number(n.toPrecision(n >= 9.995 ? 3 : 2))} ${unit}`;
}
