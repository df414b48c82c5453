import { hostPrefix, type SwitchConfig, type SwitchFolder } from '@anthemion/core';

/** Words of an announced route as FRR would say it, so that the far end is told the same. */
const told = (asIt: 'INCOMPLETE' | 'IGP'): string => `{ bgp_origin = ORIGIN_${asIt}; accept; }`;

type Router = NonNullable<SwitchConfig['bgp']>;
type Neighbour = Router['peers'][number];

/** Does a thing say no more than these words? */
const saysOnly = (of: object, ...words: readonly string[]): boolean => Object.keys(of).every((w) => words.includes(w));

/** What of a router can be said to BIRD here; what else it says makes it one of FRR’s. */
function plain({ bgp, vxlans, vrfs, routeMaps, prefixLists, ospf, filters }: SwitchConfig): Router | null {
  if (!bgp || vxlans.length + vrfs.length + routeMaps.length + prefixLists.length > 0 || ospf || filters) return null;
  const { ipv4, evpn, peers, vrfs: tenants, defaultIpv4, policyRequired, ...rest } = bgp;
  const { active, ownAsAllowed, policies = [], connected = {}, static: statics = {}, aggregates = [], ...more } = ipv4;
  const known =
    defaultIpv4 &&
    !policyRequired &&
    tenants.length + evpn.active.length + active.length === 0 &&
    saysOnly(rest, 'asn', 'routerId', 'multipathRelax') &&
    [more, ownAsAllowed, connected, statics].every((of) => saysOnly(of)) &&
    peers.every(
      (p) =>
        p.kind !== 'group' &&
        saysOnly(p, 'name', 'kind', 'remoteAs', 'description', 'multihop', 'updateSource') &&
        // A source is an address there.
        (p.updateSource === undefined || hostPrefix(p.updateSource) !== null),
    ) &&
    policies.every((p) => saysOnly(p, 'peer', 'defaultOriginate')) &&
    aggregates.every((a) => saysOnly(a, 'prefix')) &&
    (aggregates.length === 0 || ipv4.connected !== undefined);
  return known ? bgp : null;
}

/**
 * A router outside as BIRD is told of it: its neighbours, what it announces and to whom it tells a default route. Null = it
 * says more than is put into BIRD’s words here.
 */
export function birdText(config: SwitchConfig): string | null {
  const bgp = plain(config);
  if (!bgp?.routerId) return null;
  const { ipv4, peers } = bgp;
  const statics = config.staticRoutes ?? [];
  if (statics.some((s) => s.vrf !== undefined)) return null;
  const written = statics.map((s) => `  route ${s.prefix} ${s.via === undefined ? 'blackhole' : `via ${s.via}`};`);
  const within = (ipv4.aggregates ?? []).map((a) => `  route ${a.prefix} blackhole;`);
  const session = (p: Neighbour, i: number): string => {
    const tells = ipv4.policies?.some((x) => x.peer === p.name && x.defaultOriginate) ?? false;
    const far =
      p.kind === 'interface'
        ? `  interface "${p.name}";\n  neighbor range fe80::/10 ${p.remoteAs === 'external' ? 'external' : `as ${p.remoteAs}`};`
        : `  neighbor ${p.name} ${p.remoteAs === 'external' ? 'external' : `as ${p.remoteAs}`};`;
    const over = p.multihop === undefined ? '' : `  multihop ${p.multihop};\n`;
    const from = p.updateSource === undefined ? '' : `  source address ${p.updateSource};\n`;
    return `protocol bgp n${i} {
  local as ${bgp.asn};
${far}
${over}${from}
  ipv4 {
    ${p.kind === 'interface' ? 'extended next hop on;' : ''}
    import all;
    export filter {
      if source = RTS_BGP then accept;
      ${ipv4.connected ? `if proto = "own" then ${told('INCOMPLETE')}` : ''}
      ${ipv4.static ? `if proto = "written" then ${told('INCOMPLETE')}` : ''}
      if proto = "within" then ${told('INCOMPLETE')}
      ${tells ? `if proto = "everything" then ${told('IGP')}` : ''}
      reject;
    };
  };
}`;
  };
  // Where it tells nobody a default route, it may hear of one.
  const everything = ipv4.policies?.some((x) => x.defaultOriginate)
    ? 'protocol static everything {\n  ipv4;\n  route 0.0.0.0/0 blackhole;\n}'
    : '';
  // FRR calls a neighbour without an address when it has heard a router advertisement of his.
  const unnumbered = peers.filter((p) => p.kind === 'interface');
  return `log "/run/bird.log" all;
router id ${bgp.routerId};
protocol device { scan time 2; }
protocol direct own { ipv4; }
protocol kernel {
  ipv4 { export filter { if proto = "own" || proto = "within" || proto = "everything" then reject; accept; }; };
}
protocol static written {
  ipv4;
${written.join('\n')}
}
protocol static within {
  ipv4;
${within.join('\n')}
}
${everything}
${peers.map(session).join('\n')}
${unnumbered.length === 0 ? '' : `protocol radv {\n${unnumbered.map((p) => `  interface "${p.name}" { max ra interval 4; };`).join('\n')}\n}`}
`;
}

/** Switches of a folder that can be run by BIRD instead: routers that are no part of the fabric. */
export const runByBird = ({ switches }: SwitchFolder): ReadonlyMap<string, string> =>
  new Map(
    switches.flatMap(({ host, config, unread }) => {
      const text = unread.every((u) => u.harmless) ? birdText(config) : null;
      return text === null ? [] : [[host, text] as const];
    }),
  );
