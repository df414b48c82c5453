import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { FABRIC_PATTERNS, skerryIntent } from '../../demo/skerry.ts';
import { intents } from '../../testing/fabricOf.ts';
import { applyEdit, applyEdits, describeEdit, EDITS, type Edit } from './index.ts';
import { editsBetween } from './editsBetween.ts';
import { racksText } from '../racksText.ts';

/** Every kind of edit once on Skerry, with what it says of itself where the intent before is at hand. */
describe('sentences', () => {
  const skerry = skerryIntent();
  const [pilots, vrf, port] = [
    skerry.networks.find((n) => n.name === 'pilot-desk')!,
    skerry.vrfs[0]!,
    skerry.ports[0]!,
  ];
  const [model, pattern] = [skerry.models.find((m) => m.name === 'TV-L48F')!, skerry.rackPatterns[0]!];
  const seat = Object.keys(skerry.seating)[0]!;
  const digest = 'A'.repeat(22);
  const snippet = { name: 'motd', file: 'frr.conf' as const, on: 'all' as const, text: '! calm\n! sea\n' };
  const waiver = { rule: 'path-width', reason: 'One spine is away', until: '2026-12-31', by: 'ines' };
  const noted = applyEdits(skerry, [
    { kind: 'putWaiver', waiver: { ...waiver, rule: 'asn-valid' } },
    { kind: 'putSnippet', snippet },
    { kind: 'putSecret', secret: { name: 'bgp', digest } },
  ]).intent;
  const SAID: readonly (readonly [Edit, string])[] = [
    [
      { kind: 'layFabric', pattern: FABRIC_PATTERNS[0]!, models: [], rackPatterns: [] },
      'Lay out from pattern four-by-ten: 4 spines, 8 racks',
    ],
    [{ kind: 'clearFabric' }, 'Clear the whole fabric: 4 spines, 8 racks, 8 networks'],
    [{ kind: 'changeSettings', settings: { linkMtu: 9100, bfd: false } }, 'Set link MTU 9216 → 9100, BFD on → off'],
    [{ kind: 'choosePools', pools: { vni: 'other' } }, 'Draw VNIs from other (so far overlay)'],
    [{ kind: 'setSpines', count: 3 }, 'Spines 4 → 3; 1 switch leaves its seat'],
    [
      {
        kind: 'setSpines',
        others: [{ number: 2, model: 'TV-L48F' }],
        breakouts: [{ ports: 'p1-p2', into: 4 }],
        management: { port: 'eth0', ports: 'p1-p48' },
      },
      'Spines of another model none → 2 TV-L48F, split ports of the spines none → p1-p2 × 4, management network none → eth0 to p1-p48',
    ],
    [{ kind: 'addRack', rack: { number: 9, pattern: pattern.name, slot: 11 } }, 'Add rack 9 (pair-48)'],
    [{ kind: 'removeRack', number: 7 }, ''],
    [{ kind: 'placeRack', number: 1, place: 'hall B' }, 'Place of rack 1 no named place → hall B'],
    [{ kind: 'putModel', model: { ...model, maxMtu: 9000 } }, 'Largest MTU of switch model TV-L48F 9216 → 9000'],
    [{ kind: 'removeModel', name: 'TV-L48F' }, 'Remove switch model TV-L48F'],
    [
      { kind: 'putRackPattern', rackPattern: { ...pattern, uplinkPorts: 'p49-p54' } },
      'Uplink ports of rack pattern pair-48 p49-p56 → p49-p54',
    ],
    [{ kind: 'removeRackPattern', name: 'pair-48' }, 'Remove rack pattern pair-48'],
    [{ kind: 'takeSeat', seat, serial: 'NEW-1' }, `Switch in seat ${seat} ${skerry.seating[seat]!} → NEW-1`],
    [{ kind: 'clearSeat', seat }, `Switch in seat ${seat} ${skerry.seating[seat]!} → none`],
    [{ kind: 'addVrf', vrf: { name: 'charts', transitVlan: 4003 } }, 'Add VRF charts'],
    [
      { kind: 'changeVrf', name: vrf.name, vrf: { ...vrf, transitVlan: 4009, vni: 777 } },
      `Change VRF ${vrf.name}: L3 VNI’s VLAN ${vrf.transitVlan} → 4009, L3 VNI drawn → 777`,
    ],
    [{ kind: 'removeVrf', name: 'charts' }, 'Remove VRF charts'],
    [{ kind: 'addNetwork', network: { ...pilots, name: 'fog' } }, `Add network fog to VRF ${pilots.vrf}`],
    [
      { kind: 'changeNetwork', name: 'pilot-desk', network: { ...pilots, mtu: 8000 } },
      `MTU of network pilot-desk ${pilots.mtu ?? 'default'} → 8000`,
    ],
    [
      { kind: 'carryNetwork', name: 'pilot-desk', racks: [1, 2, 3] },
      `Carry pilot-desk on rack 1-3 (so far on ${racksText(pilots.racks)})`,
    ],
    [{ kind: 'removeNetwork', name: 'pilot-desk' }, 'Remove network pilot-desk'],
    [
      { kind: 'connectServer', port },
      `Connect ${port.server} to rack ${port.rack} ${port.port}${port.side === 'both' ? '' : ` (${port.side})`}`,
    ],
    [
      { kind: 'changeServer', port: { ...port, server: 'fog-1' } },
      `Put fog-1 on port ${port.port} of rack ${port.rack} in place of ${port.server}`,
    ],
    [
      { kind: 'changeServer', port: { ...port, shut: true } },
      `Shut port ${port.port} of rack ${port.rack}, where ${port.server} is`,
    ],
    [{ kind: 'disconnectServer', ...port }, `Free port ${port.port} of rack ${port.rack} from ${port.server}`],
    [
      {
        kind: 'joinOutside',
        link: { rack: 7, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1', to: 'site' },
      },
      'Join offing-1 eth1 (another site) to rack 7 p46 (a)',
    ],
    [
      { kind: 'changeOutside', link: { rack: 7, side: 'a', port: 'p46', system: 'offing-1', farPort: 'eth1' } },
      'Change link to offing-1 on rack 7 p46 (a)',
    ],
    [{ kind: 'shutLink', link: 'leaf-1:spine-2:1' }, 'Shut link sk-lf-01 p50 – sk-sp-02 p1'],
    [{ kind: 'openLink', link: 'leaf-1:spine-2:1' }, 'Open link sk-lf-01 p50 – sk-sp-02 p1'],
    [{ kind: 'drainSeat', seat: 'leaf-7a' }, 'Drain sk-lf-07a'],
    [{ kind: 'bringBack', seat: 'leaf-7a' }, 'Bring sk-lf-07a back'],
    [{ kind: 'leaveOutside', rack: 7, side: 'a', port: 'p46' }, 'Free port p46 of rack 7 (a)'],
    [
      {
        kind: 'putNeighbour',
        neighbour: {
          rack: 7,
          side: 'a',
          port: 'p46',
          vrf: 'tides',
          address: '192.0.2.0/31',
          far: '192.0.2.1',
          asn: 64701,
          takes: [],
          tells: [],
        },
      },
      'Speak BGP to 192.0.2.1 (AS 64701) from rack 7 p46 (a) in tides',
    ],
    [
      {
        kind: 'putPolicy',
        policy: { is: 'path-list', name: 'offing', entries: [{ permit: true, pattern: '^64701_' }] },
      },
      'Add AS path list offing',
    ],
    [{ kind: 'removePolicy', is: 'path-list', name: 'offing' }, 'Remove AS path list offing'],
    [{ kind: 'removeNeighbour', rack: 7, side: 'a', port: 'p46' }, 'Speak no BGP from rack 7 p46 (a)'],
    [
      { kind: 'putRoute', route: { vrf: 'tides', prefix: '0.0.0.0/0', via: '10.32.4.9', racks: [2, 5] } },
      'Route 0.0.0.0/0 of tides to 10.32.4.9 on racks 2, 5',
    ],
    [
      { kind: 'removeRoute', vrf: 'tides', prefix: '0.0.0.0/0', via: '10.32.4.9' },
      'Remove the static route of tides to 0.0.0.0/0 by 10.32.4.9',
    ],
    [
      { kind: 'putLeak', leak: { into: vrf.name, from: skerry.vrfs[1]!.name, prefixes: ['0.0.0.0/0'] } },
      `Leak 0.0.0.0/0 of ${skerry.vrfs[1]!.name} into ${vrf.name}`,
    ],
    [
      { kind: 'removeLeak', into: vrf.name, from: skerry.vrfs[1]!.name },
      `Remove the leak of ${skerry.vrfs[1]!.name} into ${vrf.name}`,
    ],
    [
      {
        kind: 'putSpeakers',
        speakers: { network: 'echo-store', from: '10.32.4.0/26', asn: 64850, takes: ['198.51.100.0/26'], tells: [] },
      },
      'Let servers of echo-store at 10.32.4.0/26 (AS 64850) speak BGP to its gateway',
    ],
    [
      { kind: 'removeSpeakers', network: 'echo-store', from: '10.32.4.0/26' },
      'Let no servers of echo-store at 10.32.4.0/26 speak BGP to its gateway any more',
    ],
    [{ kind: 'putSnippet', snippet: { ...snippet, text: '! storm\n' } }, 'Text of snippet motd 2 lines → 1 line'],
    [{ kind: 'removeSnippet', name: 'motd' }, 'Remove snippet motd'],
    [{ kind: 'putWaiver', waiver }, 'Waive rule path-width until 2026-12-31: One spine is away'],
    [
      { kind: 'putWaiver', waiver: { ...waiver, rule: 'asn-valid', until: '2027-01-31' } },
      'Until of waiver of asn-valid 2026-12-31 → 2027-01-31',
    ],
    [{ kind: 'removeWaiver', rule: 'asn-valid' }, 'Remove waiver of asn-valid'],
    [{ kind: 'putSecret', secret: { name: 'bgp', digest: 'B'.repeat(22) } }, 'Value of secret bgp AAAAAA… → BBBBBB…'],
    [{ kind: 'removeSecret', name: 'bgp' }, 'Remove secret bgp'],
  ];
  test('every kind of edit says what it does, from what to what', () => {
    expect(new Set(SAID.map(([edit]) => edit.kind))).toEqual(new Set(Object.keys(EDITS)));
    const rack = skerry.ports.filter((p) => p.rack === 7).length;
    const carried = skerry.networks.filter((n) => n.racks.includes(7)).length;
    for (const [edit, sentence] of SAID)
      expect(describeEdit(edit, noted)).toBe(
        sentence || `Remove rack 7, with 2 seats and ${rack} server ports; ${carried} networks no longer on it`,
      );
  });
  test('it says something of every edit without the intent before, and what changes is told by its difference', () => {
    fc.assert(
      fc.property(intents, intents, (from, to) => {
        let intent = from;
        for (const edit of editsBetween(from, to)) {
          expect(describeEdit(edit)).toMatch(/^\S.{5,}/);
          const said = describeEdit(edit, intent);
          if (/^(change|set)/.test(edit.kind)) expect(said).toContain(' → ');
          intent = applyEdit(intent, edit).intent;
        }
      }),
      { numRuns: 30 },
    );
  });
});
