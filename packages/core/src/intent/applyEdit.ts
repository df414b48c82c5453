import { problem, type Finding } from '../finding.ts';
import { naturally } from '../numbers/order.ts';
import type { SecretRef } from '../secrets/secretRef.ts';
import { DEFAULT_SETTINGS, leavesPerRack } from '../patterns/patterns.ts';
import type { Edit } from './edits.ts';
import { checkNetwork, checkServerPort, checkVrf, stillConnected } from './checkTenants.ts';
import { checkPattern, partsInUse } from './partsInUse.ts';
import { nextSlot } from './proposals.ts';
import { seatIds, seatIdsOfRack, spineSeats } from './seatIds.ts';
import {
  emptyIntent,
  rackPatternOf,
  serverPortKey,
  type FabricIntent,
  type Network,
  type Rack,
  type ServerPort,
  type Snippet,
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
