import type { Finding } from '../finding.ts';
import { checkDrive, type Drive } from '../hardware/drive.ts';
import { portsOf, type SwitchModel } from '../hardware/switchModel.ts';
import { onceFor } from '../onceFor.ts';
import type { RackPattern } from '../patterns/patterns.ts';
import type { FabricIntent } from './intent.ts';

/** Speeds of the ports of a rack’s leaves, in Gb/s. */
const speedsOf = onceFor((pattern: RackPattern) => onceFor((model: SwitchModel) => portsOf(model, pattern.breakouts)));

/** The speed of a port of a rack’s leaves by their model; undefined = it is not known. */
export function speedOfPort({ models }: FabricIntent, pattern: RackPattern, port: string): number | undefined {
  const model = models.find((m) => m.name === pattern.leafModel);
  return model && speedsOf(pattern)(model).get(port);
}

/** What speaks against driving a port of a rack so, by the model of its leaves; paths begin at `at`. */
export function checkPortDrive(
  intent: FabricIntent,
  pattern: RackPattern,
  said: Drive & { readonly port: string },
  at: string,
): Finding[] {
  if (said.speed === undefined && said.fec === undefined) return [];
  const speed = speedOfPort(intent, pattern, said.port);
  return speed === undefined ? [] : checkDrive(said, said.port, speed, at);
}
