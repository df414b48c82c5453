import { lagKey, sviKey, type SviConfig } from '../../config/interfaces.ts';
import type { Place } from '../../config/switchConfig.ts';
import { familyOf, formatAny, isLinkLocal, parseAnyCidr } from '../../numbers/prefix.ts';
import { onceFor } from '../../onceFor.ts';
import { harmless, unmodelled, type Answer, type Block, type FrrReading, type TopLines } from './blocks.ts';
import type { ConfigDraft } from './draft.ts';
import { readLagName, sviName } from './names.ts';
import { readOspfWord } from './ospf.ts';
import { readOspf6Word } from './ospf6.ts';
import { alikeByOspf, toldOfOspf, type OspfBlock } from './ospfAlike.ts';
import { readSegmentWord, type SegmentDraft } from './pairing.ts';

type InterfaceDraft = SegmentDraft & OspfBlock;
function openInterface(name: string, draft: ConfigDraft): InterfaceDraft {
  const key = lagKey(readLagName(name));
  const lag = draft.lags.length === 0 ? undefined : draft.lags.find((l) => lagKey(l) === key);
  return { name, port: portsByName(draft.ports).get(name), lag, ...lag?.segment, told: toldOfOspf(name, draft) };
}
/** Interfaces are read by now; a switch has as many blocks of them as ports. */
const portsByName = onceFor((ports: ConfigDraft['ports']) => new Map(ports.map((p) => [p.name, p])));

/** The block of a gateway that tells hosts of itself. */
export const gatewayBlock = (svi: SviConfig): string =>
  svi.advertises ? `\ninterface ${sviName(svi)}\n no ipv6 nd suppress-ra\nexit\n!` : '';

/** Words after `ipv6 nd`, with `no` before them or not: of all of them one is ours, whether a gateway tells of itself. */
function readAdvertising(w: readonly string[], name: string, { draft, at }: FrrReading): Answer {
  const taken = w[0] === 'no';
  if (taken ? w[1] !== 'ipv6' || w[2] !== 'nd' : w[0] !== 'ipv6' || w[1] !== 'nd') return false;
  const said = taken ? w.slice(1) : w;
  const i = draft.svis.findIndex((s) => sviName(s) === name);
  if (i < 0 || said[2] !== 'suppress-ra' || said.length > 3)
    return harmless('it is said to hosts, and no route hangs on it');
  // One that was read before may be in other drafts too.
  const { advertises: _, ...svi } = draft.svis[i]!;
  draft.svis[i] = taken ? { ...svi, advertises: true } : svi;
  return at(['svis', sviKey(svi), 'advertises']);
}

/** FRR gives interfaces addresses and closes them as well, beside what `interfaces` says. */
function readDevice(w: readonly string[], line: string, about: SegmentDraft, reading: FrrReading): Answer {
  const { name, port } = about;
  if (line === 'shutdown' && port) {
    port.shut = true;
    return reading.at(['ports', name, 'shut']);
  }
  const family = w[0] === 'ip' ? 4 : w[0] === 'ipv6' ? 6 : null;
  if (family === null || w[1] !== 'address' || w.length !== 3) return false;
  const address = parseAnyCidr(w[2]!);
  if (!address || familyOf(address) !== family) return 'it is not an address with its length';
  if (isLinkLocal(address)) return harmless('it is of one link alone');
  const at = reading.at(name === 'lo' ? ['loopbacks'] : ['ports', name, 'addresses']);
  const { draft } = reading;
  const add = (list: readonly string[] = [], text: string): string[] =>
    list.includes(text) ? [...list] : [...list, text];
  if (name === 'lo' && family === 4) draft.loopbacks = add(draft.loopbacks, w[2]!);
  else if (name === 'lo') draft.ipv6Loopbacks = add(draft.ipv6Loopbacks, formatAny(address));
  else if (!port) return unmodelled(`${name} is no port of interfaces, and gets an address here`);
  else if (family === 4) port.addresses = add(port.addresses, w[2]!);
  else port.ipv6Addresses = add(port.ipv6Addresses, formatAny(address));
  return at;
}

const interfaceBlock: Block<InterfaceDraft> = {
  name: 'interface',
  alike: alikeByOspf,
  read: (w, line, about, reading) => {
    if (w[0] === 'description') return reading.at(['ports', about.name]);
    if (line === 'no shutdown') return harmless('an interface is open by itself');
    if (w[0] === 'evpn') return readSegmentWord(w, line, about, reading);
    const advertising = readAdvertising(w, about.name, reading);
    if (advertising !== false) return advertising;
    const ospf = readOspfWord(w, line, about.name, reading) || readOspf6Word(w, line, about.name, reading);
    return ospf === false ? readDevice(w, line, about, reading) : ospf;
  },
};

export const interfaceLines: TopLines = {
  interface: (w, _line, reading) => {
    const about = openInterface(w[1] ?? '', reading.draft);
    const svi = about.port || about.lag ? undefined : reading.draft.svis.find((s) => sviName(s) === about.name);
    const place: Place = svi ? ['svis', sviKey(svi)] : about.lag ? ['lags', lagKey(about.lag)] : ['ports', about.name];
    return reading.open(interfaceBlock, about, place);
  },
};
