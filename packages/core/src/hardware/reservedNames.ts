import { everyPort } from './portNames.ts';
import type { SwitchModel } from './switchModel.ts';

/** Names of interfaces and routing tables that a switch has, or is given by us, whatever a fabric holds. */
const RESERVED: readonly (readonly [name: RegExp, what: string])[] = [
  [/^(default|all|main|local|unspec)$/, 'the name of a routing table of the switch itself'],
  [/^(lo|eth\d+|mgmt|dummy\d+)$/, 'an interface of the switch itself'],
  [/^(bridge|bond\d+|vlan\d+|vni\d+)$/, 'a name that interfaces of the fabric bear'],
];

/** What else has that name on every switch of a fabric; null = nothing. */
export const reservedWord = (name: string): string | null => RESERVED.find(([r]) => r.test(name))?.[1] ?? null;

/** Why nothing new on switches of these models may bear this name; null = it may. */
export function reservedName(name: string, models: readonly SwitchModel[]): string | null {
  const model = models.find((m) => everyPort(m).some((p) => p.name === name));
  return model ? `a port of ${model.name}` : reservedWord(name);
}
