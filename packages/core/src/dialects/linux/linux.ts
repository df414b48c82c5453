import type { OspfPort } from '../../config/ospf.ts';
import type { StaticRoute } from '../../config/static.ts';
import type { SwitchConfig } from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import { DOCUMENTS, DOCUMENTS_READ } from '../../hardware/dialects.ts';
import { AS_THEY_ARE } from '../../hardware/portNames.ts';
import type { Snippet } from '../../intent/intent.ts';
import type { SecretRef } from '../../secrets/secretRef.ts';
import type { Dialect, LineRecorder, ParsedConfig, RenderedConfig, UnreadLine } from '../dialect.ts';
import type { ConfigFiles } from '../documents.ts';
import { bfdBlock, bfdLines } from './bfd.ts';
import { bgpLines, writeBgp } from './bgp.ts';
import { FrrReader } from './blocks.ts';
import { bridgeKind, writeBridge } from './bridging.ts';
import { daemonLines, FILE as DAEMONS, readDaemons, restartedFor } from './daemons.ts';
import { copyDraft, emptyDraft, finishDraft, type ConfigDraft } from './draft.ts';
import { FILE as FILTERS, readFilters } from './filters.ts';
import { gatewayBlock, interfaceLines } from './frrInterface.ts';
import { harmlessLines } from './harmless.ts';
import {
  lagKind,
  lagStanza,
  loopbackKind,
  loopbackStanza,
  portKind,
  sviKind,
  writePort,
  writeSvis,
} from './interfaces.ts';
import { bridgeName } from './names.ts';
import { writeFilters } from './nftWrite.ts';
import { vxlanKind, writeVxlans } from './overlay.ts';
import { segmentBlock, trackedBlock } from './pairing.ts';
import { ospfBlock, ospfLines, ospfPortBlock } from './ospf.ts';
import { ospf6Block, ospf6Lines, ospf6PortBlock } from './ospf6.ts';
import { policyLines, routeMapBlocks } from './policy.ts';
import { accessLines, accessListLines } from './accessLists.ts';
import { asPathListLines, communityListLines, policyListLines, prefixListLines } from './policyLists.ts';
import { recordSettled, settleLags } from './routedLags.ts';
import { isPlain, Sheet } from './sheet.ts';
import { renderSnippet } from './snippets.ts';
import { InterfacesReader } from './stanzas.ts';
import { staticLine, staticLines } from './static.ts';
import { FILE as SYSCTL, readSysctl, SYSCTL_TEXT } from './sysctl.ts';
import { frrHead, interfacesHead, systemLines } from './system.ts';
import { vrfKind, vrfLines, writeOutsideVni, writeVrf, writeVrfDevice } from './vrfs.ts';

/** Sections stand in a document in the order in which its program needs them; that order is said here and nowhere else. */
function writeInterfaces(c: SwitchConfig): Sheet {
  const sheet = new Sheet('interfaces', interfacesHead(c) + loopbackStanza(c.loopbacks, c.ipv6Loopbacks));
  for (const p of c.ports) writePort(p, sheet);
  for (const l of c.lags) sheet.say(lagStanza(l));
  writeVxlans(c.vxlans, sheet);
  if (c.bridge) writeBridge(c.bridge, sheet);
  for (const v of c.vrfs) writeVrfDevice(v, sheet);
  writeSvis(c.svis, bridgeName(c.bridge ?? {}), sheet);
  sheet.count('\n');
  return sheet;
}

const NO_ROUTES: readonly StaticRoute[] = [];
/** What a port is told of OSPF is numbers alone, but for keys and names. */
function sayOspfPort({ name, area, keys, bfdProfile }: OspfPort, lines: string, sheet: Sheet): void {
  const plain = keys === undefined && [name, area, bfdProfile].every((word) => word === undefined || isPlain(word));
  sheet.say(lines, plain ? '' : lines);
}

function writeFrr(c: SwitchConfig): Sheet {
  const sheet = new Sheet('frr.conf', frrHead(c, c.bgp?.policyRequired ?? false));
  writeOutsideVni(c.outsideL3Vni, sheet);
  const written = c.staticRoutes ?? NO_ROUTES;
  for (const v of c.vrfs) writeVrf(v, written.length === 0 ? written : written.filter((r) => r.vrf === v.name), sheet);
  for (const p of c.ports) if (p.tracked) sheet.say(trackedBlock(p), isPlain(p.name) ? '' : trackedBlock(p));
  for (const l of c.lags) sheet.say(segmentBlock(l));
  for (const s of c.svis) sheet.say(gatewayBlock(s), s.called === undefined ? '' : gatewayBlock(s));
  for (const l of c.prefixLists) sheet.say(prefixListLines(l, 'ip'));
  for (const l of c.ipv6PrefixLists ?? []) sheet.say(prefixListLines(l, 'ipv6'));
  for (const l of c.accessLists ?? []) sheet.say(accessListLines(l, 'ip'));
  for (const l of c.ipv6AccessLists ?? []) sheet.say(accessListLines(l, 'ipv6'));
  for (const l of c.communityLists ?? []) sheet.say(communityListLines(l, 'community-list'));
  for (const l of c.largeCommunityLists ?? []) sheet.say(communityListLines(l, 'large-community-list'));
  for (const l of c.extendedCommunityLists ?? []) sheet.say(communityListLines(l, 'extcommunity-list'));
  for (const l of c.asPathLists ?? []) sheet.say(asPathListLines(l));
  for (const m of c.routeMaps) sheet.say(routeMapBlocks(m));
  for (const r of written) if (r.vrf === undefined) sheet.say(`\n${staticLine(r)}`);
  sheet.say(bfdBlock(c.bfdProfiles));
  for (const p of c.ospfPorts ?? []) sayOspfPort(p, ospfPortBlock(p), sheet);
  if (c.ospf) sheet.say(ospfBlock(c.ospf));
  for (const p of c.ospf6Ports ?? []) sayOspfPort(p, ospf6PortBlock(p), sheet);
  if (c.ospf6) sheet.say(ospf6Block(c.ospf6));
  if (c.bgp) writeBgp(c.bgp, sheet);
  sheet.count('\n');
  return sheet;
}

/** A stanza is of the first kind one of whose marks it has; else it is a port. */
const interfacesReader = new InterfacesReader(loopbackKind, [
  vxlanKind,
  sviKind,
  vrfKind,
  bridgeKind,
  lagKind,
  portKind,
]);
export const frrReader = new FrrReader([
  systemLines,
  vrfLines,
  interfaceLines,
  policyListLines,
  accessLines,
  policyLines,
  staticLines,
  bfdLines,
  ospfLines,
  ospf6Lines,
  bgpLines,
  harmlessLines,
]);

const COMMENT = new Map(DOCUMENTS.linux.map((d) => [d.name, d.comment]));

/** SwitchConfig → documents; then the snippets meant for it. */
function render(
  config: SwitchConfig,
  snippets: readonly Snippet[] = [],
  secrets: readonly SecretRef[] = [],
): RenderedConfig {
  const sheets = [writeInterfaces(config), writeFrr(config)].map((s) => ({ file: s.file, ...s.finish() }));
  const files = Object.fromEntries(sheets.map((s) => [s.file, s.text]));
  files[DAEMONS] = daemonLines(config);
  files[SYSCTL] = SYSCTL_TEXT;
  if (config.filters) files[FILTERS] = writeFilters(config.filters);
  const findings = sheets.flatMap((s) =>
    s.guarded.map(({ file, line, text, why }): Finding => ({
      rule: 'text-refused',
      severity: 'error',
      message: `${file}:${line}, “${text}”, ${why}.`,
      cure: 'Change the name or description it comes from.',
      host: config.hostname,
      place: { host: config.hostname, file, line },
    })),
  );
  for (const snippet of snippets) {
    // Another dialect may have a document of that name.
    if (!Object.hasOwn(files, snippet.file)) continue;
    const text = renderSnippet(snippet, config, secrets);
    if (typeof text === 'string')
      files[snippet.file] += `${COMMENT.get(snippet.file)} snippet ${snippet.name}\n${text}`;
    else findings.push(text);
  }
  return { files, findings };
}

/** What was read of `interfaces`. */
interface ReadDevices {
  readonly text: string;
  readonly draft: ConfigDraft;
  readonly unread: readonly UnreadLine[];
}
function readDevices(text: string, record?: LineRecorder): ReadDevices {
  const unread: UnreadLine[] = [];
  const draft = emptyDraft();
  const settled = record && recordSettled(record);
  interfacesReader.read(text, draft, unread, settled?.record);
  const moved = settleLags(draft, 'interfaces', unread);
  settled?.settle(moved);
  return { text, draft, unread };
}
const devicesOf = new WeakMap<ParsedConfig, ReadDevices>();

/** Documents → SwitchConfig. Lines that are not understood are listed, never skipped in silence. */
function parse(files: ConfigFiles, record?: LineRecorder, last?: ParsedConfig | null): ParsedConfig {
  // Devices first: routing speaks of them.
  const text = files['interfaces'] ?? '';
  const known = record || !last ? undefined : devicesOf.get(last);
  const devices = known?.text === text ? known : readDevices(text, record);
  const unread = [...devices.unread];
  const draft = last === undefined ? devices.draft : copyDraft(devices.draft);
  frrReader.read(files['frr.conf'] ?? '', draft, unread, record);
  if (DAEMONS in files) readDaemons(files[DAEMONS]!, files['frr.conf'] ?? '', draft, unread, record);
  if (SYSCTL in files) readSysctl(files[SYSCTL]!, unread, record);
  const filters = FILTERS in files ? readFilters(files[FILTERS]!, unread, record) : [];
  if (filters.length > 0) draft.filters = filters;
  const parsed = { config: finishDraft(draft), unread };
  if (last !== undefined) devicesOf.set(parsed, devices);
  return parsed;
}

/** Linux switches: ifupdown2 for interfaces, FRR for routing. Expresses ESI multihoming on LAGs; has no MLAG. */
export const linux: Dialect = {
  name: 'linux',
  // Debian 12 has FRR 8.4 and ifupdown2 3.0, on which every line was tried; the bench says of itself that it is one.
  triedWith: (version) => /^(Debian GNU\/Linux|Bench Linux) 12(\.|$)/.test(version),
  documents: DOCUMENTS.linux,
  reads: DOCUMENTS_READ.linux,
  ports: AS_THEY_ARE,
  render,
  parse,
  restartedFor,
};
