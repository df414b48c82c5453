import { expandPorts } from '../numbers/ports.ts';
import { onceFor } from '../onceFor.ts';
import { PORT_NAMING } from './dialects.ts';
import { splitPort, type PortBlock, type SwitchModel } from './switchModel.ts';

/** Both names of the ports of a model: the label, which is used everywhere, and the one the switch goes by. */
export interface PortNames {
  /** By label; a VLAN of a port (`e1/1.100`) goes with its port. A port that the model does not have keeps its name. */
  readonly nameOf: (label: string) => string;
  /** The other way. */
  readonly labelOf: (name: string) => string;
  /** Equal for models whose ports are named alike; empty = every name is its label. */
  readonly key: string;
}

/** What a maker’s model says of one port. */
interface NamedPort {
  readonly label: string;
  readonly name: string;
  /** Place of its block in the model. */
  readonly block: number;
}

/** Every port of a block, and every part it can have, with what its switch calls it. */
function namedPorts(block: PortBlock, made: (label: string) => string): Omit<NamedPort, 'block'>[] {
  const names = block.names === undefined ? [] : (expandPorts(block.names) ?? []);
  const parts = Math.max(0, ...(block.splits ?? []));
  return (expandPorts(block.ports) ?? []).flatMap((label, i) => {
    const name = names[i] ?? made(label);
    const ofParts = Array.from({ length: parts }, (_, n) => ({
      label: splitPort(label, n + 1, block),
      // The mark of a part is put otherwise as in a label, behind the name the port has.
      name: made(splitPort(name, n + 1, block)),
    }));
    return [{ label, name }, ...ofParts];
  });
}

/** Every port and part a switch of the model can have. */
export const everyPort = ({ blocks, dialect }: Pick<SwitchModel, 'blocks' | 'dialect'>): NamedPort[] =>
  blocks.flatMap((b, block) => namedPorts(b, PORT_NAMING[dialect].made).map((p) => ({ ...p, block })));

/** Of a VLAN of a port, which follows the name after a dot. */
const throughPort =
  (names: ReadonlyMap<string, string>) =>
  (said: string): string => {
    const whole = names.get(said);
    if (whole !== undefined) return whole;
    const dot = said.lastIndexOf('.');
    const port = dot < 0 ? undefined : names.get(said.slice(0, dot));
    return port === undefined ? said : `${port}${said.slice(dot)}`;
  };

/** Every name is its label. */
export const AS_THEY_ARE: PortNames = { nameOf: (label) => label, labelOf: (name) => name, key: '' };

const namesFor = onceFor((model: Pick<SwitchModel, 'blocks' | 'dialect'>): PortNames => {
  const ports = everyPort(model);
  if (ports.every((p) => p.name === p.label)) return AS_THEY_ARE;
  return {
    nameOf: throughPort(new Map(ports.map((p) => [p.label, p.name]))),
    labelOf: throughPort(new Map(ports.map((p) => [p.name, p.label]))),
    key: JSON.stringify([model.dialect, model.blocks]),
  };
});

/** Both names of the ports of a model; of one that is not known, they are taken as they are. */
export const portNames = (model: Pick<SwitchModel, 'blocks' | 'dialect'> | undefined): PortNames =>
  model ? namesFor(model) : AS_THEY_ARE;
