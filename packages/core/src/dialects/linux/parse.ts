import type { LagConfig, SwitchConfig, VrfConfig } from '../../config/switchConfig.ts';
import type { ConfigFiles, LineRecorder, ParsedConfig, UnreadLine } from '../dialect.ts';
import { parseFrr } from './parseFrr.ts';
import { parseInterfaces } from './parseInterfaces.ts';

/** `interfaces` + `frr.conf` → SwitchConfig. Lines that are not understood are listed, never skipped in silence. */
export function parseLinux(files: ConfigFiles, record?: LineRecorder): ParsedConfig {
  const unread: UnreadLine[] = [];
  const { vrfs, ports, lags, ...rest } = parseInterfaces(files['interfaces'] ?? '', unread, record);
  const { hostname, l3Vnis, tracked, segments, ...frr } = parseFrr(files['frr.conf'] ?? '', unread, record);
  for (const [name, entry] of l3Vnis)
    if (!vrfs.some((v) => v.name === name))
      unread.push({
        file: 'frr.conf',
        line: entry.line,
        text: `vrf ${name}`,
        why: `interfaces has no VRF device ${name}`,
      });
  for (const name of segments.keys())
    if (!lags.some((l) => l.name === name))
      unread.push({
        file: 'frr.conf',
        line: 0,
        text: `interface ${name}`,
        why: 'an Ethernet segment needs a LAG (bond) of this name in interfaces',
      });
  const config: SwitchConfig = {
    hostname,
    ...rest,
    ports: tracked.size === 0 ? ports : ports.map((p) => (tracked.has(p.name) ? { ...p, tracked: true } : p)),
    lags: lags.map((l): LagConfig => {
      const s = segments.get(l.name);
      return s?.number !== undefined && s.systemMac !== undefined
        ? { ...l, segment: { number: s.number, systemMac: s.systemMac } }
        : l;
    }),
    vrfs: vrfs.map((v): VrfConfig => {
      const vni = l3Vnis.get(v.name)?.vni;
      return vni === undefined ? v : { ...v, l3Vni: vni };
    }),
    ...frr,
  };
  return { config, unread };
}
