import { underlaySteps, type NetworkModel, type Octets, type SwitchConfig } from '@anthemion/core';

/** What each made-up server sends and takes in, bits per second. */
const SERVER_BITS = 40e6;
/** What neighbours say to one another on a link, bits per second. */
const NEIGHBOUR_BITS = 3000;

type Rates = Map<string, { in: number; out: number }>;

/** Ports towards servers that are open. */
function serverPorts({ ports, lags }: SwitchConfig): string[] {
  const bundled = new Set(lags.flatMap((l) => (l.bridging ? l.members : [])));
  return ports.flatMap((p) => (p.shut !== true && (p.bridging !== undefined || bundled.has(p.name)) ? p.name : []));
}

/**
 * What goes over the ports of all switches, by `switch port`, bits per second: every server sends to all others alike, in
 * tunnels that go as routes lead them, and neighbours greet one another on what is plugged.
 */
export function ratesOf(network: NetworkModel): Rates {
  const rates: Rates = new Map();
  const add = (host: string, port: string, into: number, out: number): void => {
    const key = `${host} ${port}`;
    const had = rates.get(key) ?? { in: 0, out: 0 };
    rates.set(key, { in: had.in + into, out: had.out + out });
  };
  const farOf = new Map<string, { readonly host: string; readonly port: string }>();
  for (const { a, b } of network.cables) {
    farOf.set(`${a.host} ${a.port}`, b);
    farOf.set(`${b.host} ${b.port}`, a);
    for (const end of [a, b]) add(end.host, end.port, NEIGHBOUR_BITS, NEIGHBOUR_BITS);
  }
  const ends = network.switches.flatMap(({ host, config }) => {
    const servers = serverPorts(config);
    for (const port of servers) add(host, port, SERVER_BITS, SERVER_BITS);
    const vtep = config.vxlans.find((v) => v.localAddress !== undefined)?.localAddress;
    return servers.length === 0 || vtep === undefined ? [] : [{ host, vtep, servers: servers.length }];
  });
  const all = ends.reduce((sum, e) => sum + e.servers, 0);
  // By who it is to, so that routes to one are settled once.
  for (const to of ends)
    for (const from of ends) {
      if (from === to) continue;
      let here = new Map([[from.host, (from.servers * SERVER_BITS * to.servers) / all]]);
      for (const step of underlaySteps(network, from.host, to.host, to.vtep)) {
        const next = new Map<string, number>();
        for (const hop of step) {
          const share = (here.get(hop.host) ?? 0) / step.filter((h) => h.host === hop.host).length;
          next.set(hop.to, (next.get(hop.to) ?? 0) + share);
          const far = hop.port === null ? undefined : farOf.get(`${hop.host} ${hop.port}`);
          if (!far) continue;
          add(hop.host, hop.port!, 0, share);
          add(far.host, far.port, share, 0);
        }
        here = next;
      }
    }
  return rates;
}

/** Counters of all ports, which go on from one network to the next as long as the bench runs. */
export class Counters {
  private network: NetworkModel | null = null;
  private rates: Rates = new Map();
  private at = 0;
  private readonly totals = new Map<string, { in: number; out: number }>();

  /** What a port has counted until now, with what goes over it in the network of now from here on. */
  of(network: NetworkModel, now: number): (host: string, port: string) => Octets {
    if (this.network !== null && now > this.at) {
      const octets = (now - this.at) / 8000;
      for (const [key, rate] of this.rates) {
        const had = this.totals.get(key) ?? { in: 0, out: 0 };
        this.totals.set(key, { in: had.in + rate.in * octets, out: had.out + rate.out * octets });
      }
    }
    this.at = Math.max(this.at, now);
    if (this.network !== network) {
      this.network = network;
      this.rates = ratesOf(network);
    }
    return (host, port) => {
      const had = this.totals.get(`${host} ${port}`) ?? { in: 0, out: 0 };
      return { in: Math.floor(had.in), out: Math.floor(had.out) };
    };
  }
}
