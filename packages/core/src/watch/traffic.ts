/** What a port has taken in and sent since its counters began, octets. */
export interface Octets {
  readonly in: number;
  readonly out: number;
}
/** What goes over a port, bits per second. */
export interface PortTraffic {
  readonly port: string;
  readonly in: number;
  readonly out: number;
}
/** What went over ports between two readings of their counters. */
export interface Traffic {
  /** The busiest first. */
  readonly ports: readonly PortTraffic[];
  /** Ports whose counters began anew between the two: of them nothing is known. */
  readonly anew: readonly string[];
}

/**
 * Bits per second that neighbours need for one another on a port: BFD, BGP, OSPF and LLDP send a few hundred octets a second
 * at the times that Anthemion gives them.
 */
export const QUIET_BITS = 100_000;

/** @param seconds between the readings */
export function trafficBetween(
  before: ReadonlyMap<string, Octets>,
  after: ReadonlyMap<string, Octets>,
  seconds: number,
): Traffic {
  const ports: PortTraffic[] = [];
  const anew: string[] = [];
  for (const [port, now] of after) {
    const was = before.get(port);
    if (!was || now.in < was.in || now.out < was.out) anew.push(port);
    else ports.push({ port, in: (8 * (now.in - was.in)) / seconds, out: (8 * (now.out - was.out)) / seconds });
  }
  const most = (p: PortTraffic): number => Math.max(p.in, p.out);
  return { ports: ports.sort((a, b) => most(b) - most(a)), anew };
}

/** Ports over which more goes than neighbours need for one another. */
export const busyPorts = <P extends PortTraffic>({ ports }: { readonly ports: readonly P[] }): readonly P[] =>
  ports.filter((p) => Math.max(p.in, p.out) > QUIET_BITS);
