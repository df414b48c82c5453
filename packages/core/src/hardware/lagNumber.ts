import { numbersIn } from '../numbers/ports.ts';

/** The most a LAG’s number may be: an Ethernet segment has 24 bits for it (RFC 7432 §5). */
export const MOST_LAG = 2 ** 24 - 1;

/** Ports that LACP takes together everywhere (IEEE 802.1AX leaves it open; this is what switches have). */
export const MOST_IN_LAG = 8;

/** A LAG is no LAG 0: the number of one whose port has no other (`p0`, `p-0/0/0`). */
const OF_ZERO = 999;

/**
 * A LAG has the number of its first port; where its label has several, each counts a thousand times the next: `p49s2` has
 * 49002, `e1/12` 1012, `p-0/0/1` 1.
 */
export const lagNumber = (port: string): number => numbersIn(port).reduce((n, next) => n * 1000 + next, 0) || OF_ZERO;
