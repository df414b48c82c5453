import { blankConfig, frrBlockName, frrTrialText, seenLanding, type FrrLanding, type FrrTrial } from '@anthemion/core';
import { spawnSync } from 'node:child_process';
import { Lab } from './lab.ts';
import type { Programs } from './programs.ts';
import { placed } from './readBack.ts';

const AT_ONCE = 4;
/** OSPF runs where a text asks for it. */
const START = 'hostname trial\nrouter ospf\nexit\nno router ospf\nrouter ospf6\nexit\nno router ospf6\n';
/** Takes back whatever a trial can have made. */
const WIPE = `
router bgp 65000
 address-family ipv4 unicast
  no import vrf blue
 exit-address-family
 address-family ipv6 unicast
  no import vrf blue
 exit-address-family
exit
no router bgp 65000 vrf red
no router bgp 65000 vrf blue
no router bgp 65000
no router ospf
no router ospf6
no route-map M
no route-map N
no ip prefix-list L
no ip prefix-list K
no ip prefix-list MARK
no bgp community-list standard K
no bgp large-community-list standard K
no bgp extcommunity-list standard K
no bgp as-path access-list K
no access-list K
no access-list 12
no ipv6 access-list K
no ip route 10.7.0.0/16 blackhole
no ipv6 prefix-list K
no ipv6 route 2001:db8:7::/48 blackhole
no bgp graceful-shutdown
no bgp default local-preference
no bfd
interface eth7
 no ip address 10.9.0.1/24
 no ip ospf area
 no ip ospf cost
 no ip ospf dead-interval
 no ip ospf hello-interval
 no ip ospf network
 no ip ospf passive
 no ip ospf priority
 no ip ospf mtu-ignore
 no ip ospf authentication
 no ipv6 address 2001:db8:9::1/64
 no ipv6 ospf6 area
 no ipv6 ospf6 cost
 no ipv6 ospf6 dead-interval
 no ipv6 ospf6 hello-interval
 no ipv6 ospf6 network
 no ipv6 ospf6 passive
 no ipv6 ospf6 priority
 no ipv6 ospf6 mtu-ignore
 no evpn mh uplink
 no evpn mh es-id 5
 no evpn mh es-sys-mac 02:00:00:00:00:01
 no evpn mh es-id 00:11:22:33:44:55:66:77:88:99
 no evpn mh es-df-pref 40000
 no description
exit
no interface eth7
no interface eth8
no vni 300
no vni 4001
no vni 4002
vrf red
 no vni 300
 no vni 4001
exit-vrf
no vrf red
no vrf blue
hostname trial
`;

/** The block of a running configuration that holds a line, by its name; null = none does. */
function landingOf(running: string, line: string): string | null {
  const found = placed(running).find((p) => p.text === line);
  if (!found) return null;
  return found.block === '' ? '' : found.block.split(' › ').map(frrBlockName).join(' › ');
}
/** What is configured, without the lines that every answer begins with. */
const bare = (running: string): string =>
  placed(running)
    .filter((p) => !/^(Building|Current|frr |hostname )/.test(p.text))
    .map((p) => `${p.block} ${p.text}`)
    .join('\n');

/** Writes lines in blocks of real daemons, some at once, and sees where they are afterwards. */
export async function landingsOn(programs: Programs, trials: readonly FrrTrial[]): Promise<FrrLanding[]> {
  const hosts = Array.from({ length: Math.min(AT_ONCE, trials.length) }, (_, i) => `trial${i}`);
  const lab = new Lab(
    {
      files: new Map(hosts.map((h) => [h, { interfaces: '', 'frr.conf': START }])),
      switches: hosts.map((host) => ({ host, config: blankConfig(host), unread: [] })),
      cables: [],
      hosts: [],
    },
    programs,
  );
  const out: FrrLanding[] = [];
  const running = (host: string): Promise<string> => lab.ask(host, 'show running-config');
  try {
    await lab.up();
    const clean = bare(await running(hosts[0]!));
    await Promise.all(
      hosts.map(async (host, h) => {
        for (let i = h; i < trials.length; i += hosts.length) {
          const { block, line } = trials[i]!;
          await lab.load(host, frrTrialText(trials[i]!));
          const now = await running(host);
          out[i] = seenLanding(trials[i]!, [landingOf(now, line), landingOf(now, block.mark)]);
          await lab.load(host, WIPE);
          const left = bare(await running(host));
          if (left !== clean)
            throw new Error(
              `“${line}” in ${block.path || 'the file'} could not be taken back:\n${left}\nbefore:\n${clean}`,
            );
        }
      }),
    );
  } finally {
    lab.down();
  }
  return out;
}

/** The release of FRR whose daemons are found. */
export function frrRelease({ daemons, environment }: Programs): string {
  const said = spawnSync(`${daemons}/bgpd`, ['--version'], {
    encoding: 'utf8',
    env: { ...process.env, ...environment },
  });
  return /version (\S+)/.exec(said.stdout)?.[1] ?? 'unknown';
}
