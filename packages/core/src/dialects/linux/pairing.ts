import { lagKey, type LagConfig, type PortConfig } from '../../config/interfaces.ts';
import type { EthernetSegment } from '../../config/pairing.ts';
import { isMac } from '../../numbers/mac.ts';
import type { Answer, FrrReading } from './blocks.ts';
import type { Draft } from './draft.ts';
import { lagName } from './names.ts';
import { word } from './stanzas.ts';
import { whole } from './words.ts';

/** LACP shows servers one system, whichever half of the pair they ask. */
export const actorSystemLine = (s: EthernetSegment | undefined): string =>
  s === undefined ? '' : `\n    bond-ad-actor-system ${s.systemMac}`;
export const actorSystemWord = word<object>('segment', (_, value) =>
  isMac(value.toLowerCase()) ? null : 'it is not a MAC address',
);

export const trackedBlock = (p: PortConfig): string =>
  p.tracked ? `\ninterface ${p.name}\n evpn mh uplink\nexit\n!` : '';

export const segmentBlock = (l: LagConfig): string =>
  l.segment === undefined
    ? ''
    : `\ninterface ${lagName(l)}\n evpn mh es-id ${l.segment.number}\n evpn mh es-sys-mac ${l.segment.systemMac}\nexit\n!`;

/** What stands in an `interface` block: a port, or a LAG with what was read of its segment. */
export interface SegmentDraft {
  readonly name: string;
  readonly port: Draft<PortConfig> | undefined;
  readonly lag: Draft<LagConfig> | undefined;
  number?: number;
  systemMac?: string;
}

const NO_LAG = 'an Ethernet segment needs a LAG (bond) of this name in interfaces';

/** Words of an interface after `evpn mh`. */
export function readSegmentWord(w: readonly string[], line: string, about: SegmentDraft, reading: FrrReading): Answer {
  if (line === 'evpn mh uplink') {
    if (about.port) about.port.tracked = true;
    else reading.needs('interfaces', `interfaces has no port ${about.name}`);
    return reading.at(['ports', about.name, 'tracked']);
  }
  if (w[0] !== 'evpn' || w[1] !== 'mh' || (w[2] !== 'es-id' && w[2] !== 'es-sys-mac')) return false;
  if (w[2] === 'es-id') {
    const n = whole(w[3], 1, 16777215);
    if (n === null) return 'an ES number is 1–16777215';
    about.number = n;
  } else {
    const mac = (w[3] ?? '').toLowerCase();
    if (!isMac(mac)) return 'it is not a MAC address';
    about.systemMac = mac;
  }
  const { lag, number, systemMac } = about;
  if (!lag) reading.needs('interfaces', NO_LAG);
  // Only both together make one.
  else if (number !== undefined && systemMac !== undefined) lag.segment = { number, systemMac };
  return reading.at(['lags', lag ? lagKey(lag) : about.name, 'segment']);
}
