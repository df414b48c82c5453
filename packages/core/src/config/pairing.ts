import type { ServerPort } from '../intent/intent.ts';
import { sideOf } from '../layout/seats.ts';
import { pairSystemMac, type Mac } from '../numbers/mac.ts';
import type { SeatInputs } from './seatInputs.ts';

/** Ten bytes that name an Ethernet segment (RFC 7432 §5), as lower-case text with colons. */
export type Esi = string;

/** What a pair of switches says of the LAGs they share; it stands at ports and LAGs, and has no part of its own. */
export type EthernetSegment = (
  | { readonly number: number; readonly systemMac: Mac }
  /** Said whole, whatever its type. */
  | { readonly esi: Esi }
) & {
  /** Whoever says more forwards what is flooded (RFC 9785); absent = what daemons take. */
  readonly preference?: number;
};

const hex = (n: number, bytes: number): string =>
  n
    .toString(16)
    .padStart(bytes * 2, '0')
    .replace(/..(?=.)/g, '$&:');
/** The ten bytes of a segment: as they are said, or of type 3, from the MAC of the system and its number (RFC 7432 §5). */
export const esiOf = (s: EthernetSegment): Esi => ('esi' in s ? s.esi : `03:${s.systemMac}:${hex(s.number, 3)}`);
/** Is a text such ten bytes? All zero stands for “no segment”, all ones is reserved (RFC 7432 §5). */
export const isEsi = (text: string): boolean =>
  /^([0-9a-f]{2}:){9}[0-9a-f]{2}$/.test(text) && !/^(00|ff)(:\1)*$/.test(text);

/** What people call a segment. */
export const segmentWords = (s: EthernetSegment): string => ('esi' in s ? s.esi : `${s.systemMac} ${s.number}`);

/** What servers of a pair are shown as its system by LACP, whichever half they ask. */
export const actorOf = (p: ServerPort, { fabric }: SeatInputs): Mac =>
  pairSystemMac(fabric.settings.fabricNumber, p.rack);

/** What the half says that is to forward; the other says nothing and so less. */
const PREFERRED = 40000;
/** Is the half to forward what is flooded to that server? */
function isPreferred(number: number, { seat, pairing }: SeatInputs): boolean {
  const forwards = pairing?.forwards;
  return (
    forwards !== undefined && sideOf(seat) === (forwards === 'in-turn' ? (number % 2 === 0 ? 'a' : 'b') : forwards)
  );
}

/** The segment of a multihomed server (RFC 7432 §5): both halves say the same. */
export function segmentOf(p: ServerPort, number: number, inputs: SeatInputs): EthernetSegment {
  const systemMac = actorOf(p, inputs);
  return {
    ...(inputs.pairing?.esiType === 0 ? { esi: `00:${systemMac}:${hex(number, 3)}` } : { number, systemMac }),
    ...(isPreferred(number, inputs) ? { preference: PREFERRED } : {}),
  };
}

/** Does the seat take its multihomed ports down when all its links are lost (uplink tracking)? */
export const tracksUplinks = ({ servers, pairing }: SeatInputs): boolean =>
  pairing?.untracked !== true && servers.some((p) => p.side === 'both');
