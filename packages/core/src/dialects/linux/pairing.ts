import { lagKey, lagWords, type LagConfig, type PortConfig } from '../../config/interfaces.ts';
import { esiOf, isEsi, type EthernetSegment } from '../../config/pairing.ts';
import { isMac } from '../../numbers/mac.ts';
import type { Answer, FrrReading } from './blocks.ts';
import type { Draft } from './draft.ts';
import { lagName } from './names.ts';
import { word } from './stanzas.ts';
import { whole } from './words.ts';

/** LACP shows servers one system, whichever half of the pair they ask. */
export const actorSystemLine = ({ actorSystem }: LagConfig): string =>
  actorSystem === undefined ? '' : `\n    bond-ad-actor-system ${actorSystem}`;
const actorSystemWord = word<Draft<LagConfig>>('actorSystem', (lag, value) => {
  const mac = value.toLowerCase();
  // The kernel takes none that is shared by several, nor one of zeros.
  if (!isMac(mac) || mac === '00:00:00:00:00:00' || parseInt(mac.slice(0, 2), 16) & 1) return 'it is not a MAC address';
  if (lag.actorSystem !== undefined && lag.actorSystem !== mac) return 'another line has said another';
  lag.actorSystem = mac;
  return null;
});
/** Words of ifupdown2 3.0 that all say it (its `bond.py`). */
export const ACTOR_SYSTEM_WORDS = {
  'bond-ad-actor-system': actorSystemWord,
  'bond-ad-sys-mac-addr': actorSystemWord,
  'es-sys-mac': actorSystemWord,
};

export const trackedBlock = (p: PortConfig): string =>
  p.tracked ? `\ninterface ${p.name}\n evpn mh uplink\nexit\n!` : '';

export function segmentBlock(l: LagConfig): string {
  const { segment } = l;
  if (segment === undefined) return '';
  const named =
    'esi' in segment
      ? ` evpn mh es-id ${segment.esi}`
      : ` evpn mh es-id ${segment.number}\n evpn mh es-sys-mac ${segment.systemMac}`;
  const prefers = segment.preference === undefined ? '' : `\n evpn mh es-df-pref ${segment.preference}`;
  return `\ninterface ${lagName(l)}\n${named}${prefers}\nexit\n!`;
}

/** What stands in an `interface` block: a port, or a LAG with what was read of its segment. */
export interface SegmentDraft {
  readonly name: string;
  readonly port: Draft<PortConfig> | undefined;
  readonly lag: Draft<LagConfig> | undefined;
  number?: number;
  systemMac?: string;
  esi?: string;
  preference?: number;
}

const NO_LAG = 'an Ethernet segment needs a LAG (bond) of this name in interfaces';

/** The segment that the words of a block make: what is said whole, or a number and a MAC together. */
function segmentIn({ number, systemMac, esi, preference }: SegmentDraft): EthernetSegment | undefined {
  const prefers = preference === undefined ? {} : { preference };
  if (esi !== undefined) return { esi, ...prefers };
  return number === undefined || systemMac === undefined ? undefined : { number, systemMac, ...prefers };
}

/** What a word after `evpn mh` says; a string says why it is wrong, false = it is none of them. */
function segmentWord(key: string | undefined, value: string, about: SegmentDraft): true | string | false {
  switch (key) {
    case 'es-id': {
      const number = whole(value, 1, 16777215);
      if (number === null && !isEsi(value)) return 'an ES number is 1–16777215, an ESI ten bytes as 00:11:…';
      about.esi = number === null ? value : undefined;
      about.number = number ?? undefined;
      return true;
    }
    case 'es-sys-mac':
      if (!isMac(value) || value === '00:00:00:00:00:00') return 'it is not a MAC address';
      about.systemMac = value;
      return true;
    case 'es-df-pref': {
      const preference = whole(value, 1, 65535);
      if (preference === null) return 'a preference is 1–65535';
      about.preference = preference;
      return true;
    }
    default:
      return false;
  }
}

/** Words of an interface after `evpn mh`. */
export function readSegmentWord(w: readonly string[], line: string, about: SegmentDraft, reading: FrrReading): Answer {
  if (line === 'evpn mh uplink') {
    if (about.port) about.port.tracked = true;
    else reading.needs('interfaces', `interfaces has no port ${about.name}`);
    return reading.at(['ports', about.name, 'tracked']);
  }
  if (w[0] !== 'evpn' || w[1] !== 'mh' || w.length > 4) return false;
  const said = { ...about };
  const answer = segmentWord(w[2], (w[3] ?? '').toLowerCase(), said);
  if (answer !== true) return answer;
  const { lag } = about;
  const segment = segmentIn(said);
  const other =
    segment && reading.draft.lags.find((l) => l !== lag && l.segment && esiOf(l.segment) === esiOf(segment));
  if (other) return `that segment is ${lagWords(other)}’s already`;
  Object.assign(about, said);
  if (!lag) reading.needs('interfaces', NO_LAG);
  else if (segment) lag.segment = segment;
  return reading.at(['lags', lag ? lagKey(lag) : about.name, 'segment']);
}
