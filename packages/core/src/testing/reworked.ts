import fc from 'fast-check';
import { RACK_PATTERNS } from '../demo/skerry.ts';
import { intents } from './fabricOf.ts';
import { proposeTransitVlan, proposeVlan } from '../intent/proposals.ts';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import type { FabricIntent } from '../intent/intent.ts';

/** One of ten ways in which a team changes what is there. */
function rework(intent: FabricIntent, move: number): FabricIntent {
  const [pattern, model, vrf, network] = [intent.rackPatterns[0], intent.models[0], intent.vrfs[0], intent.networks[0]];
  const tries: Edit[][] = [
    pattern ? [{ kind: 'putRackPattern', rackPattern: { ...pattern, uplinkPorts: 'p49-p55' } }] : [],
    model ? [{ kind: 'putModel', model: { ...model, maxMtu: model.maxMtu - 16 } }] : [],
    [{ kind: 'putRackPattern', rackPattern: { ...RACK_PATTERNS[1]!, name: 'spare-pair' } }],
    vrf ? [{ kind: 'changeVrf', name: vrf.name, vrf: { ...vrf, transitVlan: proposeTransitVlan(intent) } }] : [],
    network ? [{ kind: 'changeNetwork', name: network.name, network: { ...network, vlan: proposeVlan(intent) } }] : [],
    intent.racks[0] ? [{ kind: 'removeRack', number: intent.racks[0].number }] : [],
    [{ kind: 'setSpines', count: 1 }],
    pattern
      ? [
          ...intent.racks
            .filter((r) => r.pattern === pattern.name)
            .map((r): Edit => ({ kind: 'removeRack', number: r.number })),
          {
            kind: 'putRackPattern',
            rackPattern: { ...pattern, kind: pattern.kind === 'single' ? 'esi-pair' : 'single' },
          },
        ]
      : [],
    [{ kind: 'changeSettings', settings: { linkMtu: 9000 } }],
    [{ kind: 'clearFabric' }],
  ];
  const made = applyEdits(intent, tries[move]!);
  return made.findings.length > 0 ? intent : made.intent;
}

// Rack patterns and models of the same name with other content, VLANs exchanged, things removed here and added there.
export const reworked = fc
  .tuple(intents, fc.array(fc.nat({ max: 9 }), { maxLength: 6 }))
  .map(([intent, moves]) => moves.reduce((now, move) => rework(now, move), intent));
