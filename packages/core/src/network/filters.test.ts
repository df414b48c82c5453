import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ask } from '../ask/ask.ts';
import { readQuestion } from '../ask/question.ts';
import { withBorders } from '../testing/bordersOf.ts';
import { filtersOf } from '../testing/filtersOf.ts';
import { networkFromTexts, skerryCables, skerryHosts, skerryTexts, type Texts } from '../testing/skerryFolder.ts';
import { linux } from '../dialects/linux/linux.ts';
import { PING, type Traffic } from './traffic.ts';
import type { Reach } from './hostReach.ts';
import { hostReach, meetsFilters, waysBetween } from './multihoming.ts';
import { modelNetwork } from './modelNetwork.ts';
import type { NetworkModel } from './networkModel.ts';
import { sessionDoubt } from './modelDoubts.ts';

const host = (name: string) => skerryHosts.find((h) => h.host === name)!;
/** One network on two racks, and another of the same VRF. */
const near = host('soundings-101');
const same = skerryHosts.find((h) => h.vlan === near.vlan && h.switch !== near.switch)!;
const routed = host('echo-301');
const VRF = 'soundings';
const WEB: Traffic = { protocol: 'tcp', port: 443 };
const BASE = linux.parse(skerryTexts()[near.switch]!).config;
const device = (vlan: number): string => `vlan${vlan}`;

/** Skerry with filters on some switches. */
function skerry(filters: Readonly<Record<string, string>>): NetworkModel {
  const texts = skerryTexts();
  const filtered = Object.fromEntries(
    Object.entries(texts).map(([h, files]) => [
      h,
      { ...files, ...(filters[h] ? { 'nftables.conf': filters[h] } : {}) },
    ]),
  );
  return networkFromTexts(filtered as Texts);
}
const forward = (rules: string, policy = 'accept', layer = 'inet', hook = 'forward'): string =>
  `table ${layer} an_t {\n chain an_c {\n  type filter hook ${hook} priority 0; policy ${policy};\n${rules
    .split('\n')
    .map((r) => `  ${r}\n`)
    .join('')} }\n}\n`;
const reach = (filters: Readonly<Record<string, string>>, to = routed, traffic: Traffic = WEB): Reach =>
  hostReach(skerry(filters), near, to, traffic);
const passes = (r: Reach): [boolean, string | null] => [r.ok, r.unsure];
const OK = [true, null];

describe('filters on the way', () => {
  test('web is kept from a database: that port alone, in that direction, with the line that does it', () => {
    const text = forward(`ip saddr ${near.ip} ip daddr ${routed.ip} tcp dport 5432 drop`);
    const filters = { [routed.switch]: text };
    const stopped = reach(filters, routed, { protocol: 'tcp', port: 5432 });
    expect(passes(stopped)).toEqual([false, null]);
    expect(stopped.how).toBe(`a filter of ${routed.switch} stops it: rule 1 of chain an_c in inet an_t`);
    expect(passes(reach(filters))).toEqual(OK);
    expect(passes(reach(filters, routed, { protocol: 'icmp' }))).toEqual(OK);
    const question = readQuestion(['reach', near.host, routed.host, 'tcp', '5432']);
    const answer = typeof question === 'string' ? question : ask(skerry(filters), question);
    expect(answer).toMatchObject({ ask: 'reach', ok: false, ways: [{ arrives: false }] });
    if (typeof answer === 'string' || answer.ask !== 'reach') throw new Error('no way');
    const last = answer.ways[0]!.hops.at(-1)!;
    expect(last.at).toEqual([routed.switch]);
    expect(last.because[0]!.configPlace).toEqual(['filters', 'inet an_t', 'chains', 'an_c', 'rules', '1']);
  });

  test('where the answers alone are stopped, that is said; a switch that routed the call knows its flow', () => {
    const answers = forward(`tcp sport 443 drop`);
    const stopped = reach({ [near.switch]: answers });
    expect([stopped.ok, stopped.how]).toEqual([false, expect.stringMatching(/^the answer stops: a filter of /)]);
    const known = `ct state established accept\nip saddr ${near.ip} accept`;
    expect(passes(reach({ [near.switch]: forward(known, 'drop') }))).toEqual(OK);
    // Without it the answer is of no address that may pass.
    expect(reach({ [near.switch]: forward(`ip saddr ${near.ip} accept`, 'drop') }).ok).toBe(false);
    // What goes on is of a flow that is known: a call of TCP needs that, a ping is answered before.
    const begins = { [routed.switch]: forward(`ip saddr ${near.ip} ct state established drop`) };
    expect(reach(begins).ok).toBe(false);
    expect(passes(reach(begins, routed, { protocol: 'icmp' }))).toEqual(OK);
    // What may begin a flow must not be all that may pass.
    expect(reach({ [near.switch]: forward('ct state new accept', 'drop') }).ok).toBe(false);
  });

  test('what a switch routes comes in by its VRF, whose member is the interface; it leaves by an interface', () => {
    const own = device(near.vlan);
    const through = (rule: string) => reach({ [near.switch]: forward(`${rule} drop`) }).ok;
    expect(through(`iifname "${VRF}"`)).toBe(false);
    expect(through(`meta sdifname "${own}"`)).toBe(false);
    expect(through(`iifname "${own}"`)).toBe(true);
    expect(through(`oifname "${own}"`)).toBe(false);
    expect(through('oifname "p*"')).toBe(true);
  });

  test('within one network only what a bridge filters counts, and who looks for an address must be heard', () => {
    const bridged = (layer: string, rule: string, to = same) =>
      reach({ [near.switch]: forward(rule, 'accept', layer) }, to).ok;
    expect(bridged('inet', `ip saddr ${near.ip} drop`)).toBe(true);
    expect(bridged('bridge', `ip saddr ${near.ip} drop`)).toBe(false);
    expect(bridged('bridge', 'ether type arp drop')).toBe(false);
    expect(bridged('bridge', `iifname "${near.port}" ip saddr 192.0.2.1 drop`)).toBe(true);
    // To its gateway a frame goes up, and through no port.
    expect(bridged('bridge', `ip saddr ${near.ip} drop`, routed)).toBe(true);
    expect(reach({ [near.switch]: forward('ether type arp drop', 'accept', 'bridge', 'input') }, routed).ok).toBe(
      false,
    );
  });

  test('around it is the tunnel: VTEPs send and take it, every spine on the way lets it through', () => {
    const spines = Object.keys(skerryTexts()).filter((h) => h.startsWith('sk-sp'));
    const all = (text: string) => reach(Object.fromEntries(spines.map((s) => [s, text])));
    const lets = 'udp dport 4789 accept';
    expect(passes(all(forward(lets, 'drop')))).toEqual(OK);
    expect(all(forward('tcp dport 179 accept', 'drop'))).toMatchObject({ ok: false, unsure: null });
    // One of several that share the load.
    expect(reach({ [spines[0]!]: forward('udp dport 4789 drop') }).unsure).toMatch(/the load is shared, and on one of/);
    const own = 'tcp dport 179 accept\ntcp sport 179 accept\nicmpv6 type 133-136 accept\n';
    expect(reach({ [routed.switch]: forward(own, 'drop', 'inet', 'input') })).toMatchObject({
      ok: false,
      unsure: null,
    });
    expect(passes(reach({ [routed.switch]: forward(own + lets, 'drop', 'inet', 'input') }))).toEqual(OK);
  });

  test('sessions come up where either end may call, and where neighbours without addresses find one another', () => {
    const up = (rules: string, hook = 'input') => {
      const model = skerry({ [near.switch]: forward(rules, 'drop', 'inet', hook) });
      const own = model.sessions.filter((s) => s.host === near.switch);
      return { all: own.every((s) => s.up && s.unsure === undefined), reason: own[0]!.reason };
    };
    const finding = 'icmpv6 type { nd-router-advert, nd-neighbor-solicit, nd-neighbor-advert } accept';
    expect(up(`tcp dport 179 accept\n${finding}`).all).toBe(true);
    expect(up(`ct state established accept\n${finding}`).all).toBe(true);
    expect(up(`tcp sport 179 accept\n${finding}`).all).toBe(true);
    expect(up('tcp dport 179 accept').reason).toMatch(/^a filter of sk-lf-\d+ stops it: the policy of chain an_c/);
    expect(up(finding).reason).toMatch(/a filter of/);
    expect(up(finding, 'output').reason).toMatch(/a filter of/);
    expect(up('', 'forward').all).toBe(true);
    // A text in which a line cannot be judged leaves them open, where it may be asked.
    const doubted = (hook: string) => {
      const model = skerry({ [near.switch]: forward('limit rate 9/second drop', 'accept', 'inet', hook) });
      return sessionDoubt(
        model,
        model.sessions.find((s) => s.host === near.switch)!,
      );
    };
    expect(doubted('input')).toMatch(/nftables.conf:4, “limit rate 9\/second drop”, is not understood/);
    expect(doubted('forward')).toBeNull();
  });

  test('what leaves to a neighbour goes by the port of the switch that sends it, whatever the far end calls its own', () => {
    const made = withBorders(
      Object.values(skerryTexts()).map((files) => linux.parse(files).config),
      skerryCables,
      skerryHosts,
      {
        ...{ routers: 1, by: 'bgp', tells: 'no more', second: 'equal', out: 'all', leaked: false, sameAs: false },
        link: 'numbered',
      },
    )!;
    const far = made.hosts.find((h) => h.switch.startsWith('of-'))!;
    const cable = made.cables.find((c) => c.b.host === far.switch)!;
    expect(cable.a.port).not.toBe(cable.b.port);
    const sent = (port: string): Reach => {
      const { filters: stops } = linux.parse({
        interfaces: '',
        'frr.conf': '',
        'nftables.conf': forward(`oifname "${port}" drop`),
      }).config;
      const model = modelNetwork(
        made.configs.map((c) => ({
          host: c.hostname,
          config: c.hostname === far.switch ? { ...c, filters: stops! } : c,
          unread: [],
        })),
        made.cables,
        made.hosts,
      );
      return hostReach(
        model,
        far,
        model.hosts.find((h) => h.vlan === near.vlan && h.switch === cable.a.host)!,
      );
    };
    expect(passes(sent(cable.b.port))).toEqual([false, null]);
    expect(passes(sent(cable.a.port))).toEqual(OK);
  });

  test('a session over a VLAN whose bridge filters is uncertain, one over a port is not', () => {
    const configs = Object.values(skerryTexts()).map((files) => linux.parse(files).config);
    const doubt = (link: 'vlan' | 'numbered') => {
      const made = withBorders(configs, skerryCables, skerryHosts, {
        ...{ routers: 1, by: 'bgp', tells: 'no more', second: 'equal', out: 'all', leaked: false, sameAs: false },
        link,
      })!;
      const bridge = linux.parse({
        interfaces: '',
        'frr.conf': '',
        'nftables.conf': forward('tcp dport 179 drop', 'accept', 'bridge'),
      });
      const model = modelNetwork(
        made.configs.map((c) => ({
          host: c.hostname,
          config: c.hostname === 'sk-lf-01' ? { ...c, filters: bridge.config.filters! } : c,
          unread: [],
        })),
        made.cables,
        made.hosts,
      );
      return sessionDoubt(
        model,
        model.sessions.find((s) => s.host === 'sk-lf-01' && s.vrf !== undefined)!,
      );
    };
    expect(doubt('vlan')).toMatch(/sk-lf-01 filters what it bridges, and the session leads over a VLAN/);
    expect(doubt('numbered')).toBeNull();
  });

  test('a line that is not understood is a doubt where it may matter, and nowhere else', () => {
    const line = `ip saddr ${near.ip} limit rate 5/second drop`;
    const filters = { [near.switch]: forward(line) };
    expect(reach(filters).unsure).toMatch(/limit rate 5\/second drop”, is not understood/);
    expect(passes(hostReach(skerry(filters), routed, same, WEB))).toEqual(
      passes(hostReach(skerry({}), routed, same, WEB)),
    );
    // What comes before decides.
    expect(passes(reach({ [near.switch]: forward(`accept\n${line}`) }))).toEqual(OK);
    expect(reach({ [near.switch]: 'include "/etc/more.nft"\n' }).unsure).toMatch(/include/);
    expect(passes(reach({ [near.switch]: 'table inet an_t {\n chain an_c { jump an_gone\n }\n}\n' }))).toEqual(OK);
  });

  test('what is certain beside lines that are not understood is so, whether they drop or do nothing', () => {
    const configs = new Map(Object.entries(skerryTexts()).map(([h, files]) => [h, linux.parse(files).config]));
    const hosts = [near, same, routed];
    const filters = fc
      .constantFrom(near.switch, routed.switch, 'sk-sp-01')
      .chain((at) => filtersOf(configs.get(at)!, hosts).map((tables) => ({ at, tables })));
    const DECIDES = /^( {4}\S.*?)(accept|drop|return|goto \S+|jump \S+)$/gm;
    fc.assert(
      fc.property(filters, fc.nat(), fc.nat(), ({ at, tables }, first, second) => {
        const text = linux.render({ ...BASE, filters: tables }).files['nftables.conf']!;
        const lines = [...text.matchAll(DECIDES)].map((m) => m.index);
        fc.pre(lines.length > 0);
        const chosen = new Set([lines[first % lines.length]!, lines[second % lines.length]!]);
        const put = (how: (line: string, verdict: string, at: number) => string): string =>
          text.replace(DECIDES, (whole, line: string, verdict: string, i: number) =>
            chosen.has(i) ? how(line, verdict, i) : whole,
          );
        const answers = (with_: string) => {
          const model = skerry({ [at]: with_ });
          return hosts.flatMap((a) =>
            hosts
              .filter((b) => b !== a)
              .flatMap((b) => {
                const [call, ping] = [WEB, PING].map((t) => hostReach(model, a, b, t)) as [Reach, Reach];
                // What no filter was asked about fares alike, whatever it is.
                if (!meetsFilters(waysBetween(model, a, b))) expect(call).toEqual(ping);
                return [call, ping];
              }),
          );
        };
        const unsure = answers(put((line, verdict) => `${line}limit rate 5/second ${verdict}`));
        const [one] = chosen;
        const worlds = [
          text,
          put((line) => `${line}counter`),
          put((line, verdict, i) => (i === one ? `${line}${verdict}` : `${line}counter`)),
          put((line, verdict, i) => (i === one ? `${line}counter` : `${line}${verdict}`)),
        ].map(answers);
        for (const [i, r] of unsure.entries())
          if (r.unsure === null) for (const w of worlds) expect(w[i]!.ok, `${r.from} ${r.to}`).toBe(r.ok);
      }),
      { numRuns: 50 },
    );
  });

  test('the next model takes over what no filter changes, and no more', () => {
    const before = skerry({});
    const texts = skerryTexts();
    const other = { ...texts[near.switch]!, 'nftables.conf': forward('', 'drop', 'inet', 'input') };
    const next = modelNetwork(
      before.switches.map((s) => (s.host === near.switch ? { host: s.host, ...linux.parse(other) } : s)),
      skerryCables,
      skerryHosts,
      before,
    );
    expect(next.sessions.filter((s) => s.host === near.switch).some((s) => s.up)).toBe(false);
  });
});
