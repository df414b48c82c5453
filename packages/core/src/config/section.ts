import type { Edit } from '../intent/edits/index.ts';
import type { FabricIntent, PoolRole } from '../intent/intent.ts';
import type { Layout } from '../layout/links.ts';
import type { Seat } from '../layout/seats.ts';
import type { ValueKey } from '../pools/demands.ts';
import type { LedgerEntry, Values } from '../pools/drawValues.ts';
import { ABOVE_RACKS, type Subject } from '../subject.ts';
import type { SeatInputs } from './seatInputs.ts';

/** What is known where one asks why a line is there. */
export interface OriginContext {
  readonly intent: FabricIntent;
  readonly layout: Layout;
  readonly seat: Seat;
  readonly values: Values;
  readonly ledger: readonly LedgerEntry[];
  readonly edits: readonly Edit[];
}

/** What in the intent makes a place of a configuration be as it is. */
export interface Cause {
  readonly subject: Subject;
  /** What to call it beside the line. */
  readonly label: string;
  /** The drawn or chosen value in it, where there is one, and the role of the pool it is drawn for. */
  readonly key?: ValueKey;
  readonly role?: PoolRole;
}

/** A kind of member of a list. */
export interface Member {
  /** What one is called by, unlike all others of its list. */
  readonly key: (item: never) => string;
  /** What people call one: “port”. */
  readonly word: string;
}

/**
 * A section of what a switch is told: a part of the SwitchConfig with everything that floor knows of it. Its text is the
 * file of the same name in a dialect; what it does to the network, the file of that name in `network/`.
 */
export interface ConfigSection<Part extends object> {
  /** Of a switch that has its name and nothing else. */
  readonly blank: Part;
  /** What a seat gets of it. Pure. */
  readonly derive: (seat: SeatInputs) => Part;
  /** The lists in it whose members have names, by the fields that lead there (`bgp.peers`); lists of words are compared whole. */
  readonly members: Readonly<Record<string, Member>>;
  /** Its fields in words: “VTEP address”. */
  readonly words: Readonly<Record<string, string>>;
  /** Why a place in it is as it is. `place` begins with one of its parts. */
  readonly causeOf: (place: readonly string[], context: OriginContext) => Cause;
}

/** The pattern a seat was laid from. */
export const patternCause = ({ seat }: OriginContext): Cause =>
  seat.rack === undefined
    ? { subject: ABOVE_RACKS, label: 'fabric pattern' }
    : { subject: `rack:${seat.rack}`, label: `rack ${seat.rack}` };

/** A setting of the fabric. */
export const settingCause = (key: string, label: string): Cause => ({ subject: `setting:${key}`, label });

/** What is said while a switch is drained. */
export const drainCause = ({ seat }: OriginContext): Cause => ({
  subject: `drain:${seat.id}`,
  label: 'switch that is drained',
});

/** What there is of IPv6 because switches have it for one another. */
export const IPV6_CAUSE = settingCause('underlayFamilies', 'IPv4 and IPv6 between switches');

/** Where a change says otherwise what leads through the fabric, all that is said of neighbours comes of that; else null. */
export const schemeCause = ({ edits }: OriginContext): Cause | null =>
  edits.some((e) => e.kind === 'changeSettings' && e.settings.asnScheme !== undefined)
    ? settingCause('asnScheme', 'AS numbers')
    : null;
