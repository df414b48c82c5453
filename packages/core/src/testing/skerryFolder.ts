import { compileFabric } from '../compile/compileFabric.ts';
import { hostsOf } from '../compile/servers.ts';
import { POOLS, skerryIntent } from '../demo/skerry.ts';
import { linux } from '../dialects/linux/linux.ts';
import { modelNetwork } from '../network/modelNetwork.ts';
import type { NetworkModel } from '../network/networkModel.ts';
import type { Cable } from '../network/cablePlan.ts';
import { judgeNetwork } from '../proof/judgeNetwork.ts';
import { placeFindings } from '../proof/placeFindings.ts';
import { configsOf } from './fabricOf.ts';
import type { Finding } from '../finding.ts';

export type Texts = Record<string, { interfaces: string; 'frr.conf': string }>;

const intent = skerryIntent();
const { drawn, layout } = configsOf(intent);
const compiled = compileFabric(intent, drawn.values, POOLS);

/** Skerry's text by host name, to be damaged by a test; nothing says which daemons run, so that all run that lines are added for. */
export const skerryTexts = (): Texts =>
  Object.fromEntries(
    compiled.switches.map(({ seat, files: { daemons: _, ...files } }) => [seat.host, files as Texts[string]]),
  );
export const skerryCables: readonly Cable[] = compiled.cables;
export const skerryHosts = hostsOf(intent, layout, drawn.values);

/** Reads texts back into a network. */
export function networkFromTexts(texts: Texts, cables = skerryCables): NetworkModel {
  return modelNetwork(
    Object.entries(texts).map(([host, files]) => ({ host, ...linux.parse(files) })),
    cables,
    skerryHosts,
    null,
    compiled.legs,
  );
}

/** The network with a few servers of each switch: all pairs are asked about where two networks are compared. */
export function withFewServers(network: NetworkModel): NetworkModel {
  const seen = new Map<string, number>();
  const isEarly = ({ switch: at, ip }: NetworkModel['hosts'][number]): boolean => {
    const key = `${at} ${ip.includes(':')}`;
    seen.set(key, (seen.get(key) ?? 0) + 1);
    return seen.get(key)! <= 4;
  };
  return { ...network, hosts: network.hosts.filter(isEarly) };
}

/** What the rules say of texts, with file and line. */
export const findingsIn = (texts: Texts, cables = skerryCables): Finding[] =>
  placeFindings(
    judgeNetwork(networkFromTexts(texts, cables)).findings,
    (host) => texts[host] && { dialect: linux, files: texts[host] },
  );
