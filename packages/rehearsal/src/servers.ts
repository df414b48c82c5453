import type { SwitchConfig } from '@anthemion/core';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Box } from './box.ts';
import { caller, listener } from './calls.ts';
import type { PluggedHost } from './kernel.ts';

/** Servers could send as much as any port takes. */
const SERVER_MTU = 9500;
/** Of IP and ICMP. */
const pingHeaders = (address: string): number => (address.includes(':') ? 48 : 28);
const PINGS_AT_ONCE = 80;

/** What servers need of the lab they are plugged into. */
interface Plugs {
  readonly box: Box;
  readonly plugged: readonly PluggedHost[];
  readonly configOf: (host: string) => SwitchConfig;
  /** The program. */
  readonly ping: string;
  /** A folder for what they run. */
  readonly etc: string;
}

/** The servers of a lab, a namespace each, and what they send one another. */
export class Servers {
  private readonly box: Box;
  private readonly plugged: readonly PluggedHost[];
  private readonly configOf: (host: string) => SwitchConfig;
  private readonly ping: string;
  private readonly etc: string;

  constructor({ box, plugged, configOf, ping, etc }: Plugs) {
    this.box = box;
    this.plugged = plugged;
    this.configOf = configOf;
    this.ping = ping;
    this.etc = etc;
  }

  async up(): Promise<void> {
    const lines = this.plugged.flatMap(({ of, n }, i) => {
      const six = of.ip.includes(':');
      const config = this.configOf(of.switch);
      const svi = config.svis.find((v) => v.vlan === of.vlan);
      const near = six ? svi?.ipv6Addresses?.[0] : (svi?.virtual?.address ?? svi?.addresses[0]);
      const length = near?.split('/')[1] ?? (six ? '64' : '24');
      const first = this.plugged.findIndex((p) => p.n === n) === i;
      return [
        ...(first
          ? [
              `ip netns add s${n}`,
              `ip link set s${n} netns s${n} name eth0`,
              `ip -n s${n} link set lo up`,
              `ip -n s${n} link set dev eth0 mtu ${SERVER_MTU} up`,
            ]
          : []),
        `ip -n s${n} address add ${of.ip}/${length} dev eth0${six ? ' nodad' : ''}`,
        ...(of.gateway === '' ? [] : [`ip -n s${n} route add default via ${of.gateway} 2>/dev/null || true`]),
      ];
    });
    const made = await this.box.run(['set -e', ...lines].join('\n'));
    if (!made.ok) throw new Error(`the servers could not be made: ${made.err.trim()}`);
  }

  private listening = false;
  /**
   * Which of these calls are answered: TCP connections that are made, packets of UDP that come back. Each server listens on
   * all of the ports asked for.
   * @returns the calls that were, by their number
   */
  async calls(
    asked: readonly {
      readonly from: PluggedHost;
      readonly to: PluggedHost;
      readonly protocol: 'tcp' | 'udp';
      readonly port: number;
    }[],
  ): Promise<ReadonlySet<number>> {
    const ports = (protocol: string): number[] => [
      ...new Set(asked.flatMap((a) => (a.protocol === protocol ? [a.port] : []))),
    ];
    if (!this.listening) {
      this.listening = true;
      writeFileSync(join(this.etc, 'listen.py'), listener(ports('tcp'), ports('udp')));
      const starts = [...new Set(this.plugged.map((p) => p.n))].map(
        (n) => `ip netns exec s${n} python3 ${join(this.etc, 'listen.py')} >/dev/null 2>&1 &`,
      );
      await this.box.run([...starts, 'sleep 1'].join('\n'));
    }
    const answered = new Set<number>();
    // Who is not answered calls once more, as with pings.
    for (let tries = 1; tries <= 2 && answered.size < asked.length; tries++) {
      // A server with addresses of both families is there twice.
      const lines = this.plugged.flatMap((from, at) => {
        const own = asked.flatMap((a, i) =>
          a.from === from && !answered.has(i) ? [`${a.protocol} ${a.port} ${a.to.of.ip} ${i}`] : [],
        );
        if (own.length === 0) return [];
        const file = join(this.etc, `call${at}.py`);
        writeFileSync(file, caller(own));
        return [`ip netns exec s${from.n} python3 ${file} &`];
      });
      const { out } = await this.box.run([...lines, 'wait'].join('\n'));
      for (const call of out.split('\n').filter(Boolean)) answered.add(Number(call));
    }
    return answered;
  }

  /**
   * Every server asks its gateway from the address that is meant, as one does that is switched on: of IPv6 it has another
   * that it made itself by what the gateway advertises, and who is not heard by it is not found from other switches.
   */
  async wake(): Promise<void> {
    const { ping } = this;
    const lines = this.plugged
      .filter(({ of }) => of.gateway !== '')
      .map(
        ({ of, n }) => `(ip netns exec s${n} ${ping} -c 2 -i 0.3 -W 1 -I ${of.ip} -q ${of.gateway} >/dev/null 2>&1) &`,
      );
    await this.box.run([...lines, 'wait', 'sleep 3'].join('\n'));
  }

  /**
   * Which servers reach which others by ping, of the pairs asked for; who fails is asked once more, as a first packet may
   * be lost while addresses are learnt. It is asked from the address that is meant: one that the server made itself by what
   * its gateway advertises is known to nobody until that gateway has heard it.
   * @param size bytes of each packet, which then must not be cut; absent = few
   * @returns the pairs that answered, as `from to` by their addresses
   */
  async pings(
    pairs: readonly (readonly [from: PluggedHost, to: PluggedHost])[],
    size?: number,
  ): Promise<ReadonlySet<string>> {
    const { ping } = this;
    const how = (to: string): string =>
      `-c 3 -i 0.3 -W 2${size === undefined ? '' : ` -M do -s ${size - pingHeaders(to)}`}`;
    const reached = new Set<string>();
    for (let tries = 1; tries <= 2; tries++) {
      const left = pairs.filter(([a, b]) => !reached.has(`${a.of.ip} ${b.of.ip}`));
      if (left.length === 0) break;
      const lines = left.map(
        ([a, b]) =>
          `(ip netns exec s${a.n} ${ping} -I ${a.of.ip} ${how(b.of.ip)} -q ${b.of.ip} >/dev/null 2>&1 && echo ${a.of.ip} ${b.of.ip}) &`,
      );
      for (let at = 0; at < lines.length; at += PINGS_AT_ONCE) {
        const { out } = await this.box.run([...lines.slice(at, at + PINGS_AT_ONCE), 'wait'].join('\n'));
        for (const pair of out.split('\n').filter(Boolean)) reached.add(pair);
      }
    }
    return reached;
  }
}
