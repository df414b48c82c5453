import { lagKey, type PortConfig } from '../config/interfaces.ts';
import { asksAround } from '../config/drained.ts';
import { sayDifference, type ConfigDifference } from '../config/differences.ts';
import type { SwitchConfig } from '../config/switchConfig.ts';
import { vlanOfPort } from '../config/vlanOfPort.ts';
import { driveOf } from '../hardware/drive.ts';
import type { Edit } from '../intent/edits/index.ts';
import {
  cablesOfLink,
  holdsPort,
  outsideKey,
  type FabricIntent,
  type OutsideLink,
  type ServerPort,
} from '../intent/intent.ts';
import { endAt, type Layout } from '../layout/links.ts';
import { sideOf, type Seat } from '../layout/seats.ts';
import { serverIn } from '../patterns/descriptions.ts';
import { naturally } from '../numbers/order.ts';
import { sameContent } from '../numbers/content.ts';

/** A switch that runs something else than is meant. */
export interface Drifted {
  readonly seat: string;
  readonly meant: SwitchConfig;
  readonly runs: SwitchConfig;
  readonly differences: readonly ConfigDifference[];
}

/** A difference that intent cannot say, and why. */
export interface NotAdopted {
  readonly host: string;
  readonly sentence: string;
  readonly why: string;
}
export interface Adoption {
  readonly edits: readonly Edit[];
  readonly left: readonly NotAdopted[];
}

/** How a server port is, in words of the intent; or why the intent has no words for it. */
type SaidPort = { readonly port: ServerPort | null } | { readonly why: string };

/** Name of the front port a difference is about, through the LAG it is in; null = it is about no front port. */
function frontPortOf({ place }: ConfigDifference, configs: readonly SwitchConfig[]): string | null {
  const [section, name = ''] = place;
  if (section === 'ports') return name;
  if (section === 'lags') return configs.flatMap((c) => c.lags).find((l) => lagKey(l) === name)?.members[0] ?? null;
  return null;
}

/**
 * The edits that make the intent say what runs on drifted switches, as far as it has words for it: server ports opened,
 * shut, freed, connected, told how they are driven, or in other networks; outside links opened, shut, or driven otherwise; links
 * between switches opened or shut, which are so at both ends then; switches that ask to be gone round, or no longer do: they are
 * drained, or brought back, with all that belongs to it. What it cannot say is named with the reason. Both halves of a pair must
 * agree about a multihomed server; what one of them alone runs is not what the intent can mean.
 */
export function adoptDrift(intent: FabricIntent, layout: Layout, drifted: readonly Drifted[]): Adoption {
  const bySeat = new Map(drifted.map((d) => [d.seat, d]));
  const edits = new Map<string, Edit[]>();
  const left: NotAdopted[] = [];
  for (const d of drifted) {
    const seat = layout.seatById.get(d.seat);
    if (!seat) continue;
    const linkAt = new Map((layout.linksOf.get(seat.id) ?? []).map((l) => [endAt(l, seat.id).port, l.id]));
    const outward = new Set(layout.outward.flatMap((o) => (o.a.seat === seat.id ? [o.a.port] : [])));
    const isDrained = intent.drained.some((x) => x.seat === seat.id);
    const turned = asksAround(d.runs) !== asksAround(d.meant);
    if (turned) {
      const kind = asksAround(d.runs) ? 'drainSeat' : 'bringBack';
      edits.set(`drain ${seat.id}`, [{ kind, seat: seat.id }]);
    }
    for (const difference of d.differences) {
      if (turned && isOfDraining(intent, seat, difference)) continue;
      const not = (why: string): void => void left.push({ host: seat.host, sentence: sayDifference(difference), why });
      const name = frontPortOf(difference, [d.runs, d.meant]);
      if (name !== null && isDrained && isOfDraining(intent, seat, difference)) {
        not('while a switch is drained its ports of both halves are shut: bring it back, or put this back');
      } else if (name === null) {
        // The bridge's members follow from its ports; what is said of those says this too.
        const [part, field] = difference.place;
        if (part === 'bridge' && field !== 'vlans' && field !== 'mtu') continue;
        not('the intent has no words for this on one switch: it follows from settings of the whole fabric');
      } else if (linkAt.has(name) && difference.place.at(-1) === 'shut') {
        const link = linkAt.get(name)!;
        const shut = d.runs.ports.some((p) => p.name === name && p.shut);
        edits.set(`link ${link}`, [{ kind: shut ? 'shutLink' : 'openLink', link }]);
      } else if (outward.has(name) && DRIVEN.has(String(difference.place.at(-1)))) {
        const runs = outsideAt(intent, seat, name, d.runs);
        if ('why' in runs) not(runs.why);
        else edits.set(`outside ${outsideKey(runs.link)}`, [{ kind: 'changeOutside', link: runs.link }]);
      } else if (linkAt.has(name) || outward.has(name) || seat.rack === undefined)
        not('a port of the fabric itself is always as the layout has it');
      else if (isSpokenOver(d.meant.ports, name))
        not('what is routed over an outside link follows from who is spoken to there');
      else if (difference.place.at(-1) === 'mtu') not('the MTU of a server port follows from its networks');
      else {
        const made = portEdits(intent, seat, name, d, bySeat);
        if ('why' in made) not(made.why);
        else edits.set(`${seat.rack} ${name} ${made.side}`, made.edits);
      }
    }
  }
  const order = [...edits].sort(([a], [b]) => naturally(a, b));
  return { edits: order.flatMap(([, e]) => e), left };
}

/** The server on a port of both halves of a pair. */
const sharedAt = (intent: FabricIntent, { rack }: Seat, port: string): ServerPort | undefined =>
  intent.ports.find((p) => p.rack === rack && p.port === port && p.side === 'both');
/** Does it come with a switch that is drained, or brought back? */
function isOfDraining(intent: FabricIntent, seat: Seat, { place }: ConfigDifference): boolean {
  const [part, name = ''] = place;
  switch (place.at(-1)) {
    case 'gracefulShutdown':
      return true;
    case 'cost':
      return part === 'ospfPorts' || part === 'ospf6Ports';
    case 'shut':
      return part === 'ports' && sharedAt(intent, seat, name) !== undefined;
    default:
      return false;
  }
}

/** What is said of the port of an outside link. */
const DRIVEN: ReadonlySet<string> = new Set(['shut', 'speed', 'fec']);
/** The outside link of a port as it runs, or why that cannot be said. */
function outsideAt(
  intent: FabricIntent,
  seat: Seat,
  name: string,
  runs: SwitchConfig,
): { readonly link: OutsideLink } | { readonly why: string } {
  const { rack } = seat;
  const link = intent.outside.find((o) => rack !== undefined && holdsPort(o, { rack, side: sideOf(seat), port: name }));
  if (!link) return { why: 'a port of management is always as the layout has it' };
  const said = cablesOfLink(link).map((c) => {
    const port = runs.ports.find((p) => p.name === c.port);
    return port && { ...driveOf(port), ...(port.shut ? { shut: true } : {}) };
  });
  const [first] = said;
  if (!first || said.some((s) => !sameContent(s, first)))
    return { why: `all cables of the LAG to ${link.system} are driven alike, and ${name} is not as the others` };
  const { shut: _, speed: __, fec: ___, ...same } = link;
  return { link: { ...same, ...first } };
}
/** Is a port a LAG that is routed, or a VLAN of an outside link or such a LAG? */
const isSpokenOver = (ports: readonly PortConfig[], name: string): boolean =>
  ports.some((p) => p.name === name && p.members !== undefined) ||
  vlanOfPort(name, (port) => ports.some((p) => p.name === port)) !== null;

function portEdits(
  intent: FabricIntent,
  seat: Seat,
  name: string,
  d: Drifted,
  bySeat: ReadonlyMap<string, Drifted>,
): { readonly edits: Edit[]; readonly side: ServerPort['side'] } | { readonly why: string } {
  const rack = seat.rack!;
  const own = sideOf(seat);
  const was = intent.ports.find((p) => p.rack === rack && p.port === name && (p.side === 'both' || p.side === own));
  const side = was?.side ?? own;
  /** While a half is drained its ports of both say nothing of whether the server’s is shut. */
  const sayAt = (id: string, runs: SwitchConfig): SaidPort => {
    const of = sayPort(intent, rack, side, name, runs);
    if ('why' in of || !of.port || side !== 'both' || !intent.drained.some((x) => x.seat === id)) return of;
    const { shut: _, ...port } = of.port;
    return { port: was?.shut ? { ...port, shut: true } : port };
  };
  const said = sayAt(seat.id, d.runs);
  if ('why' in said) return said;
  if (side === 'both') {
    const other = seat.peer === undefined ? undefined : bySeat.get(seat.peer);
    const there = other ? sayAt(other.seat, other.runs) : { port: was! };
    if ('why' in there) return there;
    if (!sameContent(said.port, there.port))
      return {
        why: `${was!.server} is on both switches of rack ${rack}, and the other one runs ${name} otherwise: adopt it when both agree, or put it back`,
      };
  }
  const edit: Edit | null = said.port
    ? { kind: was ? 'changeServer' : 'connectServer', port: said.port }
    : was
      ? { kind: 'disconnectServer', rack, side, port: name }
      : null;
  return { edits: edit ? [edit] : [], side };
}

const SERVER_NAME = /^[A-Za-z0-9][\w.-]{0,62}$/;

/** A front port of a running configuration as the intent would say it; null = nothing is on it. */
function sayPort(
  intent: FabricIntent,
  rack: number,
  side: ServerPort['side'],
  name: string,
  runs: SwitchConfig,
): SaidPort {
  const port = runs.ports.find((p) => p.name === name);
  if (!port) return { port: null };
  const lag = runs.lags.find((l) => l.members.includes(name));
  if (side === 'both' && !lag) return { why: `${name} is in no LAG any more` };
  const { bridging, description = '' } = lag ?? port;
  if (!bridging) return { why: `${name} carries no VLAN` };
  if (port.addresses.length > 0) return { why: `${name} has an address of its own` };
  const server = serverIn(intent.settings, description, rack, name);
  if (server === null || !SERVER_NAME.test(server))
    return { why: description === '' ? `${name} says no server` : `“${description}” cannot be the name of a server` };
  const networkOf = (vlan: number) => intent.networks.find((n) => n.vlan === vlan && n.racks.includes(rack))?.name;
  const vlans = [...(bridging.untagged === undefined ? [] : [bridging.untagged]), ...bridging.tagged];
  const strange = vlans.find((v) => networkOf(v) === undefined);
  if (strange !== undefined) return { why: `VLAN ${strange} is no network that rack ${rack} carries` };
  return {
    port: {
      rack,
      side,
      port: name,
      server,
      ...(bridging.untagged === undefined ? {} : { untagged: networkOf(bridging.untagged)! }),
      tagged: bridging.tagged.map((v) => networkOf(v)!).sort(naturally),
      ...(port.shut ? { shut: true } : {}),
      ...driveOf(port),
    },
  };
}
