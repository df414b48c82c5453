import { Liquid } from 'liquidjs';
import type {
  BfdProfile,
  BgpConfig,
  BgpPeer,
  BgpVrf,
  BridgeConfig,
  Bridging,
  EvpnVni,
  LagConfig,
  PortConfig,
  PrefixList,
  RouteMap,
  SviConfig,
  SwitchConfig,
  VrfConfig,
  VxlanConfig,
} from '../../config/switchConfig.ts';
import type { Finding } from '../../finding.ts';
import type { Snippet } from '../../intent/intent.ts';
import { maskOf, masksIn, type SecretRef } from '../../secrets/secretRef.ts';
import type { RenderedConfig } from '../dialect.ts';
import { shaped } from '../shapes.ts';
import { guardText } from './textGuard.ts';
import { FRR, INTERFACES } from './templates.ts';

/** Limits for text the team writes: template length, milliseconds, and cells LiquidJS counts as memory. */
const SNIPPET_LIMITS = { parseLimit: 100_000, renderLimit: 250, memoryLimit: 1_000_000 } as const;

/** Templates in memory only, of which there are none: no tag can reach a file. */
const NO_FILES = { templates: {} } as const;
const engine = new Liquid({ ownPropertyOnly: true, ...NO_FILES });
const sandbox = new Liquid({
  ownPropertyOnly: true,
  strictFilters: true,
  strictVariables: true,
  ...NO_FILES,
  ...SNIPPET_LIMITS,
});
/** Tags that bring in other templates are not there at all. */
for (const tag of ['include', 'render', 'layout', 'block']) delete sandbox.tags[tag];

/** VLAN lines of a bridged port, as ifupdown2 writes them. */
engine.registerFilter('bridging', (b: Bridging): string => {
  if (b.tagged.length === 0) return b.untagged === undefined ? '' : `\n    bridge-access ${b.untagged}`;
  const vids = `\n    bridge-vids ${b.tagged.join(' ')}`;
  return b.untagged === undefined ? `${vids}\n    bridge-allow-untagged no` : `${vids}\n    bridge-pvid ${b.untagged}`;
});

/** Scalars the templates compare; everything else is opaque text to them. */
const LITERALS = ['kind'];
const make = <T>(template: string): ((input: T) => string) =>
  shaped<T>(engine, engine.parse(template), LITERALS).render;

const interfaces = {
  head: make<Pick<SwitchConfig, 'hostname' | 'loopbacks'>>(INTERFACES.head),
  port: make<PortConfig>(INTERFACES.port),
  lag: make<LagConfig>(INTERFACES.lag),
  vxlan: make<VxlanConfig>(INTERFACES.vxlan),
  bridge: make<BridgeConfig>(INTERFACES.bridge),
  vrf: make<VrfConfig>(INTERFACES.vrf),
  svi: make<SviConfig>(INTERFACES.svi),
};
const frr = {
  head: make<{ hostname: string; policyRequired: boolean }>(FRR.head),
  vrf: make<VrfConfig>(FRR.vrf),
  trackedPort: make<{ name: string }>(FRR.trackedPort),
  segment: make<Pick<LagConfig, 'name' | 'segment'>>(FRR.segment),
  prefixList: make<PrefixList>(FRR.prefixList),
  routeMap: make<RouteMap>(FRR.routeMap),
  bfd: make<{ profiles: readonly BfdProfile[] }>(FRR.bfd),
  bgpHead: make<Omit<BgpConfig, 'peers' | 'ipv4' | 'evpn' | 'vrfs'>>(FRR.bgpHead),
  peer: make<BgpPeer>(FRR.peer),
  bgpFamilies: make<{ ipv4: BgpConfig['ipv4']; evpn: Omit<BgpConfig['evpn'], 'vnis'> }>(FRR.bgpFamilies),
  evpnVni: make<EvpnVni>(FRR.evpnVni),
  bgpTail: make<object>(FRR.bgpTail),
  bgpVrf: make<BgpVrf>(FRR.bgpVrf),
};

const each = <T>(items: readonly T[], render: (item: T) => string): string => {
  let out = '';
  for (const item of items) out += render(item);
  return out;
};

function renderInterfaces(c: SwitchConfig): string {
  return (
    interfaces.head({ hostname: c.hostname, loopbacks: c.loopbacks }) +
    each(c.ports, interfaces.port) +
    each(c.lags, interfaces.lag) +
    each(c.vxlans, interfaces.vxlan) +
    (c.bridge ? interfaces.bridge(c.bridge) : '') +
    each(c.vrfs, interfaces.vrf) +
    each(c.svis, interfaces.svi) +
    '\n'
  );
}

function renderBgp({ peers, ipv4, evpn: { vnis, ...evpn }, vrfs, ...head }: BgpConfig): string {
  return (
    frr.bgpHead(head) +
    each(peers, frr.peer) +
    frr.bgpFamilies({ ipv4, evpn }) +
    each(vnis, frr.evpnVni) +
    frr.bgpTail({}) +
    each(vrfs, frr.bgpVrf)
  );
}

function renderFrr(c: SwitchConfig): string {
  return (
    frr.head({ hostname: c.hostname, policyRequired: c.bgp?.policyRequired ?? false }) +
    each(c.vrfs, frr.vrf) +
    each(c.ports, (p) => (p.tracked ? frr.trackedPort({ name: p.name }) : '')) +
    each(c.lags, (l) => (l.segment ? frr.segment({ name: l.name, segment: l.segment }) : '')) +
    each(c.prefixLists, frr.prefixList) +
    each(c.routeMaps, frr.routeMap) +
    (c.bfdProfiles.length > 0 ? frr.bfd({ profiles: c.bfdProfiles }) : '') +
    (c.bgp ? renderBgp(c.bgp) : '') +
    '\n'
  );
}

const GUARD_RULES = {
  refused: 'text-refused',
  'runs elsewhere': 'text-runs-elsewhere',
  'secret in plain': 'secret-in-plain',
  'secret misplaced': 'secret-misplaced',
} as const;
const GUARD_CURES = {
  refused: 'Take it out.',
  'runs elsewhere': 'Take it out, or have it put by somebody with the role scripter, who may allow it.',
  'secret in plain': 'Keep it under Secrets, and write {{ secrets.its-name }} here.',
  'secret misplaced':
    'Write {{ secrets.its-name }} only where a password or key stands, such as after neighbor … password.',
} as const;

/** What keeps a snippet's text from a switch, or null. */
function snippetGuard(snippet: Snippet, text: string, host: string, secrets: readonly SecretRef[]): Finding | null {
  const bad = guardText(snippet.file, text).find((l) => l.kind !== 'runs elsewhere' || snippet.runsElsewhere !== true);
  const strange = masksIn({ [snippet.file]: text }).find((d) => !secrets.some((s) => s.digest === d));
  if (!bad && strange !== undefined)
    return {
      rule: 'secret-known',
      severity: 'error',
      message: `Snippet ${snippet.name} writes a secret (${strange.slice(0, 6)}…) that the fabric does not use.`,
      cure: 'Take the secret up in the fabric, and write {{ secrets.its-name }}.',
      host,
      path: `/snippets/${snippet.name}/text`,
      subjects: [`snippet:${snippet.name}`],
    };
  if (!bad) return null;
  return {
    rule: GUARD_RULES[bad.kind],
    severity: 'error',
    message: `Line ${bad.line} of snippet ${snippet.name}, “${bad.text}”, ${bad.why}.`,
    cure: GUARD_CURES[bad.kind],
    host,
    path: `/snippets/${snippet.name}/text`,
    subjects: [`snippet:${snippet.name}`],
  };
}

function renderSnippet(snippet: Snippet, config: SwitchConfig, secrets: readonly SecretRef[]): string | Finding {
  try {
    const masks = Object.fromEntries(secrets.map((s) => [s.name, maskOf(s.digest)]));
    const text = `${String(sandbox.parseAndRenderSync(snippet.text, { switch: config, secrets: masks })).trimEnd()}\n`;
    return snippetGuard(snippet, text, config.hostname, secrets) ?? text;
  } catch (error) {
    const said = error instanceof Error ? error.message.split('\n')[0]! : String(error);
    const why = /limit exceeded/.test(said) ? `takes more than it may (${said})` : `does not render: ${said}`;
    return {
      rule: 'snippet-renders',
      severity: 'error',
      message: `Snippet ${snippet.name} ${why}.`,
      cure: 'A snippet may run for 250 ms: loop over the switch, not over large ranges; check the names it uses.',
      host: config.hostname,
      path: `/snippets/${snippet.name}/text`,
      subjects: [`snippet:${snippet.name}`],
    };
  }
}

/** SwitchConfig → `interfaces` and `frr.conf`, through the text templates; then the snippets meant for it. */
export function renderLinux(
  config: SwitchConfig,
  snippets: readonly Snippet[] = [],
  secrets: readonly SecretRef[] = [],
): RenderedConfig {
  const files: Record<string, string> = { interfaces: renderInterfaces(config), 'frr.conf': renderFrr(config) };
  const findings: Finding[] = Object.entries(files).flatMap(([file, text]) =>
    guardText(file, text).map((l): Finding => ({
      rule: 'text-refused',
      severity: 'error',
      message: `${file}:${l.line}, “${l.text}”, ${l.why}.`,
      cure: 'Change the name or description it comes from.',
      host: config.hostname,
      place: { host: config.hostname, file, line: l.line },
    })),
  );
  for (const snippet of snippets) {
    const text = renderSnippet(snippet, config, secrets);
    if (typeof text === 'string')
      files[snippet.file] += `${snippet.file === 'interfaces' ? '#' : '!'} snippet ${snippet.name}\n${text}`;
    else findings.push(text);
  }
  return { files, findings };
}

/** Checks a snippet's template by itself, for the form it is typed into. */
export function checkSnippetTemplate(
  snippet: Snippet,
  sample: SwitchConfig,
  secrets: readonly SecretRef[] = [],
): Finding | null {
  const result = renderSnippet(snippet, sample, secrets);
  return typeof result === 'string' ? null : result;
}
