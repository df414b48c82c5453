import type { ServerPort } from '../intent/intent.ts';
import { pairSystemMac, type Mac } from '../numbers/mac.ts';
import type { SeatInputs } from './seatInputs.ts';

/** What a pair of switches says of the LAGs they share; it stands at ports and LAGs, and has no part of its own. */
export interface EthernetSegment {
  readonly number: number;
  readonly systemMac: Mac;
}

/** The segment of a multihomed server (RFC 7432 §5, type 3 ESI): both halves say the same. */
export const segmentOf = (p: ServerPort, number: number, { fabric }: SeatInputs): EthernetSegment => ({
  number,
  systemMac: pairSystemMac(fabric.settings.fabricNumber, p.rack),
});

/** Does the seat take its multihomed ports down when all its links are lost (uplink tracking)? */
export const tracksUplinks = ({ servers }: SeatInputs): boolean => servers.some((p) => p.side === 'both');
