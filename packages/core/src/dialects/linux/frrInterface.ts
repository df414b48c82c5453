import { lagKey } from '../../config/interfaces.ts';
import { familyOf, formatAny, isLinkLocal, parseAnyCidr } from '../../numbers/prefix.ts';
import { harmless, unmodelled, type Answer, type Block, type FrrReading, type TopLines } from './blocks.ts';
import type { ConfigDraft } from './draft.ts';
import { readLagName } from './names.ts';
import { readOspfWord } from './ospf.ts';
import { readOspf6Word } from './ospf6.ts';
import { readSegmentWord, type SegmentDraft } from './pairing.ts';

function openInterface(name: string, draft: ConfigDraft): SegmentDraft {
  const key = lagKey(readLagName(name));
  const lag = draft.lags.find((l) => lagKey(l) === key);
  return { name, port: draft.ports.find((p) => p.name === name), lag, ...lag?.segment };
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

const interfaceBlock: Block<SegmentDraft> = {
  name: 'interface',
  read: (w, line, about, reading) => {
    if (w[0] === 'description') return reading.at(['ports', about.name]);
    if (line === 'no shutdown') return harmless('an interface is open by itself');
    if (w[0] === 'evpn') return readSegmentWord(w, line, about, reading);
    // Router advertisements and the like: what they say is for hosts.
    if (w[0] === 'ipv6' && w[1] === 'nd') return harmless('no route hangs on it');
    const ospf = readOspfWord(w, line, about.name, reading) || readOspf6Word(w, line, about.name, reading);
    return ospf === false ? readDevice(w, line, about, reading) : ospf;
  },
};

export const interfaceLines: TopLines = {
  interface: (w, _line, reading) => {
    const about = openInterface(w[1] ?? '', reading.draft);
    return reading.open(interfaceBlock, about, about.lag ? ['lags', lagKey(about.lag)] : ['ports', about.name]);
  },
};
