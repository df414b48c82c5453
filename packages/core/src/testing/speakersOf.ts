import fc from 'fast-check';
import { applyEdits, type Edit } from '../intent/edits/index.ts';
import { hasFamily, rackPatternOf, type FabricIntent, type NetworkSpeakers } from '../intent/intent.ts';
import { formatAddress, parseNetwork } from '../numbers/address.ts';
import { expandPorts } from '../numbers/ports.ts';
import { subnet6Key, subnetKey } from '../pools/demands.ts';
import { familyIntents } from './familiesOf.ts';
import { configsOf, intents } from './fabricOf.ts';

/** What is said of servers that speak. */
export interface SpeakersChoice {
  /** How many of those that can be are known. */
  readonly known: number;
  readonly tells: boolean;
  readonly words: Pick<NetworkSpeakers, 'originate' | 'hold' | 'bfd' | 'limit' | 'closed'>;
}
export const speakersChoice: fc.Arbitrary<SpeakersChoice> = fc.record({
  known: fc.nat(3),
  tells: fc.boolean(),
  words: fc
    .record({
      originate: fc.constantFrom(undefined, undefined, true as const),
      hold: fc.constantFrom(undefined, 12),
      bfd: fc.constantFrom(undefined, undefined, true as const),
      limit: fc.constantFrom(undefined, 40),
      closed: fc.constantFrom(undefined, undefined, undefined, undefined, true as const),
    })
    .map((words) => Object.fromEntries(Object.entries(words).filter(([, v]) => v !== undefined))),
});

/** An intent of whose networks servers speak BGP to their gateway, of each family that they have. */
export function withSpeakers(intent: FabricIntent, choices: readonly SpeakersChoice[]): FabricIntent {
  const { values } = configsOf(intent).drawn;
  const edits = intent.networks.flatMap((network, n): Edit[] =>
    ([4, 6] as const).flatMap((family): Edit[] => {
      const { known, tells, words } = choices[(2 * n + (family === 6 ? 1 : 0)) % choices.length]!;
      const key = family === 4 ? subnetKey(network.name) : subnet6Key(network.name);
      const subnet = values.get(key) ?? (family === 4 ? network.subnet : network.subnet6);
      if (!hasFamily(network, family) || subnet === undefined) return [];
      const { address } = parseNetwork(subnet)!;
      // On leaves of their own: of a bonded server nobody knows which leaf it speaks to.
      const servers = network.racks.slice(0, known).flatMap((rack, i): Extract<Edit, { kind: 'connectServer' }>[] => {
        const pattern = rackPatternOf(
          intent,
          intent.racks.find((r) => r.number === rack)!,
        )!;
        const port = expandPorts(pattern.serverPorts)![20 + 2 * n + (family === 6 ? 1 : 0)]!;
        const side = pattern.kind === 'single' || (i + n) % 2 === 0 ? 'a' : 'b';
        const server = `node-${network.name}-${family}-${rack}`;
        return [{ kind: 'connectServer', port: { rack, side, port, server, untagged: network.name, tagged: [] } }];
      });
      return [
        ...servers,
        {
          kind: 'putSpeakers',
          speakers: {
            ...words,
            network: network.name,
            from: subnet,
            asn: 64850 + n,
            takes: family === 4 ? [`198.51.100.${16 * n}/28`] : [`2001:db8:${(0x9900 + n).toString(16)}::/48`],
            tells: !tells ? [] : family === 4 ? ['10.0.0.0/8'] : ['2001:db8::/32'],
            ...(servers.length === 0
              ? {}
              : {
                  known: servers.map(({ port: { server } }, i) => ({
                    server,
                    address: formatAddress({ family, value: address + BigInt(5 + i) }),
                  })),
                }),
          },
        },
      ];
    }),
  );
  const made = applyEdits(intent, edits);
  if (made.findings.length > 0) throw new Error(`${made.findings[0]!.path}: ${made.findings[0]!.message}`);
  return made.intent;
}

/** Fabrics of which servers speak BGP to the gateways of their networks, by one family or both. */
export const speakersIntents: fc.Arbitrary<FabricIntent> = fc
  .tuple(fc.oneof(intents, familyIntents), fc.array(speakersChoice, { minLength: 2, maxLength: 4 }))
  .map(([intent, choices]) => withSpeakers(intent, choices));

/** Those of which some are known by name, and their sessions open. */
export const knownSpeakersIntents = speakersIntents.filter(({ speakers }) =>
  speakers.some((s) => !s.closed && (s.known ?? []).length > 0),
);
