import { problem, type Finding } from '../finding.ts';
import { naturally } from '../numbers/order.ts';
import { contains, overlaps, parseCidr, parsePrefix, refusedPrefix } from '../numbers/ipv4.ts';
import { isVlan, isVni, VNI_MAX, VNI_MIN } from '../numbers/vni.ts';
import { expandPorts } from '../numbers/order.ts';
import type { SecretRef } from '../secrets/secretRef.ts';
import { DEFAULT_SETTINGS, leavesPerRack, type RackPattern } from '../patterns/patterns.ts';
import type { Edit } from './edits.ts';
import { checkPattern, partsInUse } from './partsInUse.ts';
import {
  emptyIntent,
  rackPatternOf,
  serverPortKey,
  type FabricIntent,
  type Network,
  type Rack,
  type ServerPort,
  type Snippet,
  type Vrf,
} from './intent.ts';

/** Outcome of one edit: the new intent, or the unchanged one with the findings that say why not. */
export interface Applied {
  readonly intent: FabricIntent;
  readonly findings: readonly Finding[];
}

const byName = <T extends { readonly name: string }>(items: readonly T[]): T[] =>
  [...items].sort((a, b) => naturally(a.name, b.name));
const byNumber = (racks: readonly Rack[]): Rack[] => [...racks].sort((a, b) => a.number - b.number);
const byKey = (ports: readonly ServerPort[]): ServerPort[] =>
  [...ports].sort((a, b) => naturally(serverPortKey(a), serverPortKey(b)));
const put = <T extends { readonly name: string }>(items: readonly T[], item: T): T[] =>
  byName([...items.filter((i) => i.name !== item.name), item]);
const without = <T extends { readonly name: string }>(items: readonly T[], name: string): T[] =>
  items.filter((i) => i.name !== name);

/** Seats a rack has, by its pattern. */
export const seatIdsOfRack = (rack: Pick<Rack, 'number'>, kind: RackPattern['kind']): string[] =>
  kind === 'single' ? [`leaf-${rack.number}`] : [`leaf-${rack.number}a`, `leaf-${rack.number}b`];

const spineSeats = (count: number): string[] => Array.from({ length: count }, (_, i) => `spine-${i + 1}`);

/** Every seat of an intent, spines first. */
export function seatIds(intent: FabricIntent): string[] {
  const kinds = new Map(intent.rackPatterns.map((p) => [p.name, p.kind]));
  return [
    ...spineSeats(intent.spines.count),
    ...intent.racks.flatMap((r) => seatIdsOfRack(r, kinds.get(r.pattern) ?? 'single')),
  ];
}

/** First run of `leaves` free positions on the spines, 1-based. */
export function nextSlot(intent: FabricIntent, leaves: number): number {
  const kinds = new Map(intent.rackPatterns.map((p) => [p.name, p.kind]));
  const taken = new Set<number>();
  for (const r of intent.racks)
    for (let i = 0; i < leavesPerRack(kinds.get(r.pattern) ?? 'single'); i++) taken.add(r.slot + i);
  for (let slot = 1; ; slot++) {
    let free = true;
    for (let i = 0; i < leaves; i++) if (taken.has(slot + i)) free = false;
    if (free) return slot;
  }
}

/** What the interface proposes for the next rack of a pattern. */
export function proposeRack(intent: FabricIntent, pattern: RackPattern, place?: string): Rack {
  const number = Math.max(0, ...intent.racks.map((r) => r.number)) + 1;
  const rack = { number, pattern: pattern.name, slot: nextSlot(intent, leavesPerRack(pattern.kind)) };
  return place ? { ...rack, place } : rack;
}

/** Next free transit VLAN, from 4001 up. */
export function proposeTransitVlan(intent: FabricIntent): number {
  const taken = new Set([...intent.vrfs.map((v) => v.transitVlan), ...intent.networks.map((n) => n.vlan)]);
  for (let vlan = 4001; vlan <= 4094; vlan++) if (!taken.has(vlan)) return vlan;
  for (let vlan = 4000; vlan > 1; vlan--) if (!taken.has(vlan)) return vlan;
  return 0;
}

/** Next free VLAN for a network: one above the highest in use below 4000, from 10. */
export function proposeVlan(intent: FabricIntent): number {
  const taken = new Set([...intent.vrfs.map((v) => v.transitVlan), ...intent.networks.map((n) => n.vlan)]);
  for (let vlan = Math.max(9, ...[...taken].filter((v) => v < 3999)) + 1; vlan < 4000; vlan++)
    if (!taken.has(vlan)) return vlan;
  for (let vlan = 10; vlan < 4095; vlan++) if (!taken.has(vlan)) return vlan;
  return 0;
}

function checkVrf(intent: FabricIntent, vrf: Vrf): Finding[] {
  const out: Finding[] = [];
  const others = intent.vrfs.filter((v) => v.name !== vrf.name);
  const vlanHolder =
    others.find((v) => v.transitVlan === vrf.transitVlan)?.name ??
    intent.networks.find((n) => n.vlan === vrf.transitVlan)?.name;
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
  return out;
}

function checkNetwork(intent: FabricIntent, network: Network, at = '/network'): Finding[] {
  const out: Finding[] = [];
  const others = intent.networks.filter((n) => n.name !== network.name);
  if (!intent.vrfs.some((v) => v.name === network.vrf))
    out.push(
      problem(
        'vrf-known',
        `${at}/vrf`,
        `There is no VRF ${network.vrf}.`,
        intent.vrfs.length > 0 ? `There is ${intent.vrfs.map((v) => v.name).join(', ')}.` : 'Add the VRF first.',
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
  if (network.subnet !== undefined) {
    const prefix = parsePrefix(network.subnet);
    if (!prefix) {
      const cidr = parseCidr(network.subnet);
      out.push(
        problem(
          'subnet-form',
          `${at}/subnet`,
          cidr ? `${network.subnet} has host bits set.` : `“${network.subnet}” is not a prefix.`,
          'Write the network address and length, such as 10.32.14.0/24.',
        ),
      );
    } else if (prefix.length > 29) {
      out.push(
        problem(
          'subnet-size',
          `${at}/subnet`,
          `${network.subnet} has no room for a gateway and hosts.`,
          'Use a /29 or larger.',
        ),
      );
    } else {
      const refused = refusedPrefix(prefix);
      if (refused)
        out.push(
          problem(
            'subnet-refused',
            `${at}/subnet`,
            `${network.subnet} lies in ${refused}.`,
            'Use a private prefix (RFC 1918).',
          ),
        );
      for (const other of others) {
        const theirs = other.subnet === undefined ? null : parsePrefix(other.subnet);
        if (theirs && other.vrf === network.vrf && overlaps(theirs, prefix))
          out.push(
            problem(
              'subnet-overlap',
              `${at}/subnet`,
              contains(theirs, prefix)
                ? `${network.subnet} lies inside ${other.subnet}, which is ${other.name}'s, in the same VRF.`
                : `${network.subnet} overlaps ${other.subnet}, which is ${other.name}'s, in the same VRF.`,
              'Choose a subnet clear of it, or leave the field empty to have one drawn.',
            ),
          );
      }
    }
  } else if (network.subnetLength < 8 || network.subnetLength > 29)
    out.push(
      problem(
        'subnet-size',
        `${at}/subnetLength`,
        `A /${network.subnetLength} cannot be a network's subnet.`,
        'Use /8 to /29.',
      ),
    );
  const stranger = network.racks.find((n) => !intent.racks.some((r) => r.number === n));
  if (stranger !== undefined)
    out.push(problem('rack-known', `${at}/racks`, `There is no rack ${stranger}.`, 'Choose racks of this fabric.'));
  return out;
}

function checkServerPort(intent: FabricIntent, port: ServerPort): Finding[] {
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
  return out;
}

const missing = (what: string, name: string | number): Finding =>
  problem('object-known', '', `There is no ${what} ${name} (any more).`, 'Undo this edit.');
const exists = (what: string, name: string | number, path: string): Finding =>
  problem(
    'object-new',
    path,
    `There is already a ${what} ${name}.`,
    'Choose another name, or change the one there is.',
  );

/**
 * Applies one edit. Pure; what cannot be applied leaves the intent unchanged and says why, with a path into the edit.
 */
export function applyEdit(intent: FabricIntent, edit: Edit): Applied {
  const refuse = (...findings: Finding[]): Applied => ({ intent, findings });
  const done = (next: Partial<FabricIntent>): Applied => ({ intent: { ...intent, ...next }, findings: [] });
  const guarded = (findings: Finding[], next: Partial<FabricIntent>): Applied =>
    findings.length > 0 ? { intent, findings } : done(next);

  switch (edit.kind) {
    case 'layFabric': {
      if (intent.pattern !== '')
        return refuse(problem('fabric-laid', '', 'The fabric is laid out already.', 'Add racks or spines instead.'));
      let laid: FabricIntent = {
        ...intent,
        pattern: edit.pattern.name,
        settings: { ...DEFAULT_SETTINGS, ...edit.pattern.settings },
        spines: edit.pattern.spines,
        parallel: edit.pattern.parallel,
        models: byName(edit.models),
        rackPatterns: byName(edit.rackPatterns),
      };
      let slot = 1;
      let number = 1;
      const racks: Rack[] = [];
      for (const entry of edit.pattern.racks) {
        const pattern = edit.rackPatterns.find((p) => p.name === entry.pattern);
        if (!pattern)
          return refuse(
            problem(
              'pattern-fits',
              '/pattern/racks',
              `There is no rack pattern ${entry.pattern}.`,
              'Name one that exists.',
            ),
          );
        for (let i = 0; i < entry.count; i++) {
          racks.push({ number: number++, pattern: pattern.name, slot });
          slot += leavesPerRack(pattern.kind);
        }
      }
      laid = { ...laid, racks };
      return { intent: laid, findings: [] };
    }
    case 'clearFabric':
      return { intent: emptyIntent(intent.name, intent.namePrefix), findings: [] };
    case 'changeSettings':
      return done({ settings: { ...intent.settings, ...edit.settings } });
    case 'choosePools':
      return done({ pools: { ...intent.pools, ...edit.pools } });
    case 'setSpines': {
      const kept = new Set(spineSeats(edit.count));
      const seating = Object.fromEntries(
        Object.entries(intent.seating).filter(([seat]) => !seat.startsWith('spine-') || kept.has(seat)),
      );
      return done({ spines: { ...intent.spines, count: edit.count }, seating });
    }
    case 'addRack': {
      if (intent.racks.some((r) => r.number === edit.rack.number))
        return refuse(exists('rack', edit.rack.number, '/rack/number'));
      const rewritten = partsInUse(intent, edit.rackPattern, edit.model);
      if (rewritten) return refuse(rewritten);
      const rackPatterns = edit.rackPattern ? put(intent.rackPatterns, edit.rackPattern) : intent.rackPatterns;
      const pattern = rackPatterns.find((p) => p.name === edit.rack.pattern);
      if (!pattern) return refuse(missing('rack pattern', edit.rack.pattern));
      const wanted = new Set(Array.from({ length: leavesPerRack(pattern.kind) }, (_, i) => edit.rack.slot + i));
      for (const other of intent.racks) {
        const size = leavesPerRack(rackPatternOf(intent, other)?.kind ?? 'single');
        for (let i = 0; i < size; i++)
          if (wanted.has(other.slot + i))
            return refuse(
              problem(
                'slot-taken',
                '/rack/slot',
                `Spine position ${other.slot + i} is rack ${other.number}'s.`,
                `${nextSlot(intent, wanted.size)} is free.`,
              ),
            );
      }
      return done({
        racks: byNumber([...intent.racks, edit.rack]),
        rackPatterns,
        models: edit.model ? put(intent.models, edit.model) : intent.models,
      });
    }
    case 'removeRack': {
      const rack = intent.racks.find((r) => r.number === edit.number);
      if (!rack) return refuse(missing('rack', edit.number));
      const gone = new Set(seatIdsOfRack(rack, rackPatternOf(intent, rack)?.kind ?? 'single'));
      return done({
        racks: intent.racks.filter((r) => r !== rack),
        seating: Object.fromEntries(Object.entries(intent.seating).filter(([seat]) => !gone.has(seat))),
        networks: intent.networks.map((n) =>
          n.racks.includes(edit.number) ? { ...n, racks: n.racks.filter((r) => r !== edit.number) } : n,
        ),
        ports: intent.ports.filter((p) => p.rack !== edit.number),
      });
    }
    case 'putModel':
      return done({ models: put(intent.models, edit.model) });
    case 'removeModel': {
      if (!intent.models.some((m) => m.name === edit.name)) return refuse(missing('switch model', edit.name));
      const user =
        intent.rackPatterns.find((p) => p.leafModel === edit.name)?.name ??
        (intent.spines.model === edit.name ? 'the spines' : undefined);
      if (user)
        return refuse(
          problem('model-in-use', '/name', `${edit.name} is used by ${user}.`, 'Change or remove that first.'),
        );
      return done({ models: without(intent.models, edit.name) });
    }
    case 'putRackPattern':
      return guarded(checkPattern(intent, edit.rackPattern), {
        rackPatterns: put(intent.rackPatterns, edit.rackPattern),
      });
    case 'removeRackPattern': {
      if (!intent.rackPatterns.some((p) => p.name === edit.name)) return refuse(missing('rack pattern', edit.name));
      const user = intent.racks.find((r) => r.pattern === edit.name);
      if (user)
        return refuse(
          problem('pattern-in-use', '/name', `Rack ${user.number} is made by ${edit.name}.`, 'Remove that rack first.'),
        );
      return done({ rackPatterns: without(intent.rackPatterns, edit.name) });
    }
    case 'placeRack': {
      if (!intent.racks.some((r) => r.number === edit.number)) return refuse(missing('rack', edit.number));
      return done({
        racks: intent.racks.map((r) => {
          if (r.number !== edit.number) return r;
          const { place: _, ...rest } = r;
          return edit.place ? { ...rest, place: edit.place } : rest;
        }),
      });
    }
    case 'takeSeat': {
      if (!seatIds(intent).includes(edit.seat)) return refuse(missing('seat', edit.seat));
      const other = Object.entries(intent.seating).find(
        ([seat, serial]) => serial === edit.serial && seat !== edit.seat,
      );
      if (other)
        return refuse(
          problem(
            'serial-taken',
            '/serial',
            `${edit.serial} sits in ${other[0]} already.`,
            'Leave that seat empty first, or choose another switch.',
          ),
        );
      const seating = { ...intent.seating, [edit.seat]: edit.serial };
      return done({ seating: Object.fromEntries(Object.entries(seating).sort(([a], [b]) => naturally(a, b))) });
    }
    case 'clearSeat': {
      const { [edit.seat]: gone, ...seating } = intent.seating;
      return gone === undefined
        ? refuse(problem('seat-empty', '/seat', `Seat ${edit.seat} is empty already.`, 'Nothing is to be done.'))
        : done({ seating });
    }
    case 'addVrf':
      return intent.vrfs.some((v) => v.name === edit.vrf.name)
        ? refuse(exists('VRF', edit.vrf.name, '/vrf/name'))
        : guarded(checkVrf(intent, edit.vrf), { vrfs: byName([...intent.vrfs, edit.vrf]) });
    case 'changeVrf':
      return intent.vrfs.some((v) => v.name === edit.name)
        ? guarded(checkVrf(intent, { ...edit.vrf, name: edit.name }), {
            vrfs: put(intent.vrfs, { ...edit.vrf, name: edit.name }),
          })
        : refuse(missing('VRF', edit.name));
    case 'removeVrf': {
      const used = intent.networks.filter((n) => n.vrf === edit.name);
      if (!intent.vrfs.some((v) => v.name === edit.name)) return refuse(missing('VRF', edit.name));
      if (used.length > 0)
        return refuse(
          problem(
            'vrf-in-use',
            '/name',
            `VRF ${edit.name} still has ${used.map((n) => n.name).join(', ')}.`,
            'Remove its networks first.',
          ),
        );
      return done({ vrfs: without(intent.vrfs, edit.name) });
    }
    case 'addNetwork':
      return intent.networks.some((n) => n.name === edit.network.name)
        ? refuse(exists('network', edit.network.name, '/network/name'))
        : guarded(checkNetwork(intent, edit.network), {
            networks: byName([...intent.networks, sortedRacks(edit.network)]),
          });
    case 'changeNetwork': {
      if (!intent.networks.some((n) => n.name === edit.name)) return refuse(missing('network', edit.name));
      const network = sortedRacks({ ...edit.network, name: edit.name });
      const findings = [...checkNetwork(intent, network), ...stillConnected(intent, network)];
      return guarded(findings, { networks: put(intent.networks, network) });
    }
    case 'carryNetwork': {
      const network = intent.networks.find((n) => n.name === edit.name);
      if (!network) return refuse(missing('network', edit.name));
      const next = sortedRacks({ ...network, racks: edit.racks });
      const findings = [...checkNetwork(intent, next), ...stillConnected(intent, next)].map((f) => ({
        ...f,
        path: '/racks',
      }));
      return guarded(findings, { networks: put(intent.networks, next) });
    }
    case 'removeNetwork': {
      if (!intent.networks.some((n) => n.name === edit.name)) return refuse(missing('network', edit.name));
      const user = intent.ports.find((p) => p.untagged === edit.name || p.tagged.includes(edit.name));
      if (user)
        return refuse(
          problem(
            'network-in-use',
            '/name',
            `${user.server} on rack ${user.rack} ${user.port} still uses ${edit.name}.`,
            'Free its ports first.',
          ),
        );
      return done({ networks: without(intent.networks, edit.name) });
    }
    case 'connectServer':
      return guarded(checkServerPort(intent, edit.port), { ports: byKey([...intent.ports, edit.port]) });
    case 'disconnectServer': {
      const key = serverPortKey(edit);
      return intent.ports.some((p) => serverPortKey(p) === key)
        ? done({ ports: intent.ports.filter((p) => serverPortKey(p) !== key) })
        : refuse(missing('server on port', edit.port));
    }
    case 'putSnippet':
      return done({ snippets: put<Snippet>(intent.snippets, edit.snippet) });
    case 'removeSnippet':
      return intent.snippets.some((s) => s.name === edit.name)
        ? done({ snippets: without(intent.snippets, edit.name) })
        : refuse(missing('snippet', edit.name));
    case 'putSecret':
      return done({ secrets: put<SecretRef>(intent.secrets, edit.secret) });
    case 'removeSecret': {
      if (!intent.secrets.some((s) => s.name === edit.name)) return refuse(missing('secret', edit.name));
      const user = intent.snippets.find((s) => usesSecret(s, edit.name));
      return user
        ? refuse(
            problem(
              'secret-in-use',
              '/name',
              `Snippet ${user.name} still writes secret ${edit.name}.`,
              'Change that snippet first.',
            ),
          )
        : done({ secrets: without(intent.secrets, edit.name) });
    }
  }
}

/** Does a snippet's template name a secret? */
const usesSecret = (snippet: Snippet, name: string): boolean =>
  [`secrets.${name}`, `secrets['${name}'`, `secrets["${name}"`].some((said) => {
    const at = snippet.text.indexOf(said);
    return at >= 0 && !/[\w-]/.test(snippet.text.charAt(at + said.length));
  });

const sortedRacks = (n: Network): Network => ({ ...n, racks: [...new Set(n.racks)].sort((a, b) => a - b) });

function stillConnected(intent: FabricIntent, network: Network): Finding[] {
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

/** Applies edits in order; stops at the first that cannot be applied and says which one. */
export function applyEdits(base: FabricIntent, edits: readonly Edit[]): Applied & { readonly failedAt?: number } {
  let intent = base;
  for (const [i, edit] of edits.entries()) {
    const step = applyEdit(intent, edit);
    if (step.findings.length > 0) return { intent, findings: step.findings, failedAt: i };
    intent = step.intent;
  }
  return { intent, findings: [] };
}
