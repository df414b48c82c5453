import { problem, type Finding } from '../../finding.ts';
import { checkFamilies } from './checkFamilies.ts';
import { checkMaps } from './checkSession.ts';
import { checkSubnets } from './checkSubnets.ts';
import { reservedName } from '../../hardware/reservedNames.ts';
import { expandPorts } from '../../numbers/ports.ts';
import { isVlan, isVni, VNI_MAX, VNI_MIN } from '../../numbers/vni.ts';
import { isRouted } from '../../patterns/patterns.ts';
import { holdsPort, rackPatternOf, type FabricIntent, type Network, type ServerPort, type Vrf } from '../intent.ts';
import { checkPortDrive } from '../portDrive.ts';
import { proposeTransitVlan, proposeVlan } from '../proposals.ts';

/** What speaks against a VRF as it stands in an edit; paths begin at `/vrf`. */
export function checkVrf(intent: FabricIntent, vrf: Vrf): Finding[] {
  const out: Finding[] = [];
  const others = intent.vrfs.filter((v) => v.name !== vrf.name);
  const vlanHolder =
    others.find((v) => v.transitVlan === vrf.transitVlan)?.name ??
    intent.networks.find((n) => n.vlan === vrf.transitVlan)?.name;
  if (!isRouted(intent))
    out.push(
      problem(
        'shape-has',
        '/vrf/name',
        'A switched fabric routes nothing, so it has no VRFs.',
        'Add networks without a VRF, and route them outside.',
      ),
    );
  const reserved = reservedName(vrf.name, intent.models);
  if (reserved !== null)
    out.push(
      problem('name-reserved', '/vrf/name', `${vrf.name} is ${reserved}.`, `Choose another, such as ${vrf.name}-net.`),
    );
  if (!isVlan(vrf.transitVlan))
    out.push(
      problem(
        'vlan-range',
        '/vrf/transitVlan',
        `VLAN ${vrf.transitVlan} is outside 1–4094.`,
        `${proposeTransitVlan(intent)} is free.`,
      ),
    );
  else if (vlanHolder)
    out.push(
      problem(
        'vlan-taken',
        '/vrf/transitVlan',
        `VLAN ${vrf.transitVlan} is ${vlanHolder}'s.`,
        `${proposeTransitVlan(intent)} is free.`,
      ),
    );
  if (vrf.vni !== undefined && !isVni(vrf.vni))
    out.push(
      problem(
        'vni-range',
        '/vrf/vni',
        `VNI ${vrf.vni} is outside ${VNI_MIN}–${VNI_MAX}.`,
        'Leave it empty to have one drawn.',
      ),
    );
  const { connectedMap, staticMap } = vrf;
  return [...out, ...checkMaps(intent, '/vrf', { connectedMap, staticMap })];
}

/** What speaks against a network, and where it would clash; paths begin at `at`. */
export function checkNetwork(intent: FabricIntent, network: Network, at = '/network'): Finding[] {
  const out: Finding[] = [];
  const others = intent.networks.filter((n) => n.name !== network.name);
  if (network.vrf === '') {
    const has = network.subnet === undefined ? network.furtherSubnets && 'furtherSubnets' : 'subnet';
    if (has !== undefined)
      out.push(
        problem(
          'bridged-only',
          `${at}/${has}`,
          `${network.name} is bridged only: no switch has an address in it.`,
          'Leave the subnet empty, or choose a VRF.',
        ),
      );
  } else if (!intent.vrfs.some((v) => v.name === network.vrf))
    out.push(
      problem(
        'vrf-known',
        `${at}/vrf`,
        `There is no VRF ${network.vrf}.`,
        intent.vrfs.length > 0
          ? `There is ${intent.vrfs.map((v) => v.name).join(', ')}.`
          : isRouted(intent)
            ? 'Add the VRF first.'
            : 'Leave it empty: a switched fabric has none.',
      ),
    );
  const vlanHolder =
    others.find((n) => n.vlan === network.vlan)?.name ?? intent.vrfs.find((v) => v.transitVlan === network.vlan)?.name;
  if (!isVlan(network.vlan))
    out.push(
      problem('vlan-range', `${at}/vlan`, `VLAN ${network.vlan} is outside 1–4094.`, `${proposeVlan(intent)} is free.`),
    );
  else if (vlanHolder)
    out.push(
      problem(
        'vlan-taken',
        `${at}/vlan`,
        `VLAN ${network.vlan} is ${vlanHolder}'s.`,
        `${proposeVlan(intent)} is free.`,
      ),
    );
  if (network.vni !== undefined) {
    if (!isVni(network.vni))
      out.push(
        problem(
          'vni-range',
          `${at}/vni`,
          `VNI ${network.vni} is outside ${VNI_MIN}–${VNI_MAX}.`,
          'Leave it empty to have one drawn.',
        ),
      );
    const holder =
      others.find((n) => n.vni === network.vni)?.name ?? intent.vrfs.find((v) => v.vni === network.vni)?.name;
    if (holder)
      out.push(
        problem('vni-taken', `${at}/vni`, `VNI ${network.vni} is ${holder}'s.`, 'Leave it empty to have one drawn.'),
      );
  }
  if (network.subnet !== undefined && network.families === 'ipv6')
    out.push(
      problem(
        'family-asked',
        `${at}/subnet`,
        `${network.name} has IPv6 alone, and a subnet of IPv4.`,
        'Leave the subnet empty, or give it both families.',
      ),
    );
  else if (network.subnet === undefined && (network.subnetLength < 8 || network.subnetLength > 29))
    out.push(
      problem(
        'subnet-size',
        `${at}/subnetLength`,
        `A /${network.subnetLength} cannot be a network's subnet.`,
        'Use /8 to /29.',
      ),
    );
  out.push(...checkFamilies(intent, network, at));
  if (network.vrf !== '') out.push(...checkSubnets(intent, network, at));
  const stranger = network.racks.find((n) => !intent.racks.some((r) => r.number === n));
  if (stranger !== undefined)
    out.push(problem('rack-known', `${at}/racks`, `There is no rack ${stranger}.`, 'Choose racks of this fabric.'));
  return out;
}

/** What speaks against a server on a port; paths begin at `/port`. */
export function checkServerPort(intent: FabricIntent, port: ServerPort): Finding[] {
  const rack = intent.racks.find((r) => r.number === port.rack);
  const pattern = rack && rackPatternOf(intent, rack);
  if (!rack || !pattern)
    return [problem('rack-known', '/port/rack', `There is no rack ${port.rack}.`, 'Choose a rack of this fabric.')];
  const out: Finding[] = [];
  const names = expandPorts(pattern.serverPorts) ?? [];
  if (!names.includes(port.port))
    out.push(
      problem(
        'port-known',
        '/port/port',
        `${port.port} is no server port of rack ${port.rack}.`,
        `Its server ports are ${pattern.serverPorts}.`,
      ),
    );
  if (pattern.kind === 'single' && port.side === 'b')
    out.push(problem('port-side', '/port/side', `Rack ${port.rack} has one leaf only.`, 'Use side a.'));
  if (pattern.kind === 'single' && port.side === 'both')
    out.push(
      problem(
        'port-side',
        '/port/side',
        `Rack ${port.rack} has one leaf; a LAG over both needs a pair.`,
        'Use side a.',
      ),
    );
  const link = intent.outside.find((o) => holdsPort(o, { ...port, side: port.side === 'both' ? o.side : port.side }));
  if (link)
    out.push(
      problem(
        'port-taken',
        '/port/port',
        `${port.port} of rack ${port.rack} leads to ${link.system}.`,
        'Choose another port.',
      ),
    );
  const clash = intent.ports.find(
    (p) =>
      p.rack === port.rack &&
      p.port === port.port &&
      (p.side === port.side || p.side === 'both' || port.side === 'both'),
  );
  if (clash) {
    const free = names.find((n) => !intent.ports.some((p) => p.rack === port.rack && p.port === n));
    out.push(
      problem(
        'port-taken',
        '/port/port',
        `${port.port} of rack ${port.rack} is ${clash.server}'s.`,
        free ? `${free} is free.` : 'The rack is full.',
      ),
    );
  }
  const named = [...(port.untagged === undefined ? [] : [port.untagged]), ...port.tagged];
  if (named.length === 0)
    out.push(problem('port-network', '/port/untagged', 'The port has no network.', 'Choose at least one.'));
  for (const name of named) {
    const network = intent.networks.find((n) => n.name === name);
    const at = name === port.untagged ? '/port/untagged' : '/port/tagged';
    if (!network) out.push(problem('network-known', at, `There is no network ${name}.`, 'Add it under Tenants first.'));
    else if (!network.racks.includes(port.rack))
      out.push(
        problem(
          'network-carried',
          at,
          `${name} is not carried on rack ${port.rack}.`,
          `Carry ${name} on rack ${port.rack} first.`,
        ),
      );
  }
  if (port.untagged !== undefined && port.tagged.includes(port.untagged))
    out.push(
      problem('port-network', '/port/tagged', `${port.untagged} is both tagged and untagged.`, 'Keep one of the two.'),
    );
  return [...out, ...checkPortDrive(intent, pattern, port, '/port')];
}

/** A server that would lose its network with a rack that no longer carries it. */
export function stillConnected(intent: FabricIntent, network: Network): Finding[] {
  const orphan = intent.ports.find(
    (p) => !network.racks.includes(p.rack) && (p.untagged === network.name || p.tagged.includes(network.name)),
  );
  return orphan
    ? [
        problem(
          'network-in-use',
          '/network/racks',
          `${orphan.server} on rack ${orphan.rack} ${orphan.port} uses ${network.name}.`,
          `Free that port first, or keep rack ${orphan.rack}.`,
        ),
      ]
    : [];
}

/** A network with its racks each once, in order, as the document keeps them. */
export const inOrder = (n: Network): Network => ({ ...n, racks: [...new Set(n.racks)].sort((a, b) => a - b) });
