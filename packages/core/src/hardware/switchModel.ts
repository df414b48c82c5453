import type { DialectName } from './dialectNames.ts';
import { expandPorts } from '../numbers/order.ts';

/** A block of like ports on a switch model. */
export interface PortBlock {
  /** Port names as a range, e.g. `p1-p48`. */
  readonly ports: string;
  /** Gigabit per second of each port. */
  readonly speed: number;
}

/** A make of hardware. */
export interface SwitchModel {
  readonly name: string;
  readonly maker: string;
  /** What its switches are told in. */
  readonly dialect: DialectName;
  readonly blocks: readonly PortBlock[];
  /** Largest frame payload (layer 3 MTU) in bytes the model forwards. */
  readonly maxMtu: number;
}

/** Every port of a model with its speed in Gb/s, in order. */
export function portsOf(model: SwitchModel): Map<string, number> {
  const ports = new Map<string, number>();
  for (const block of model.blocks) for (const name of expandPorts(block.ports) ?? []) ports.set(name, block.speed);
  return ports;
}
