import { expect, test } from 'vitest';
import { bitRate } from './bitRate.ts';

test.each([
  [0, '0 bit/s'],
  [999, '999 bit/s'],
  [999.9, '1 kbit/s'],
  [3240, '3.2 kbit/s'],
  [40e6, '40 Mbit/s'],
  [999.96e6, '1 Gbit/s'],
  [12.34e9, '12.3 Gbit/s'],
  [99.96e9, '100 Gbit/s'],
  [123456e6, '123 Gbit/s'],
])('%d bit/s is said as %s', (bits, said) => expect(bitRate(bits)).toBe(said));
