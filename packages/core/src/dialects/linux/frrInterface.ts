import { lagKey } from '../../config/interfaces.ts';
import { parseCidr } from '../../numbers/ipv4.ts';
import { harmless, unmodelled, type Answer, type Block, type FrrReading, type TopLines } from './blocks.ts';
import type { ConfigDraft } from './draft.ts';
import { readLagName } from './names.ts';
import { readOspfWord } from './ospf.ts';
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
  if (w[0] !== 'ip' || w[1] !== 'address' || w.length !== 3) return false;
  const address = w[2]!;
  if (!parseCidr(address)) return 'it is not an address with its length';
  const { loopbacks } = reading.draft;
  const known = name === 'lo' ? loopbacks : port?.addresses;
  if (known === undefined) return unmodelled(`${name} is no port of interfaces, and gets an address here`);
  if (!known.includes(address)) (known as string[]).push(address);
  return name === 'lo' ? reading.at(['loopbacks']) : reading.at(['ports', name, 'addresses']);
}

const interfaceBlock: Block<SegmentDraft> = {
  name: 'interface',
  read: (w, line, about, reading) => {
    if (w[0] === 'description') return reading.at(['ports', about.name]);
    if (line === 'no shutdown') return harmless('an interface is open by itself');
    if (w[0] === 'evpn') return readSegmentWord(w, line, about, reading);
    const ospf = readOspfWord(w, line, about.name, reading);
    return ospf === false ? readDevice(w, line, about, reading) : ospf;
  },
};

export const interfaceLines: TopLines = {
  interface: (w, _line, reading) => {
    const about = openInterface(w[1] ?? '', reading.draft);
    return reading.open(interfaceBlock, about, about.lag ? ['lags', lagKey(about.lag)] : ['ports', about.name]);
  },
};
