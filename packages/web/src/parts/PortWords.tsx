import { Faded, Mono } from './basics.tsx';

/** A port as lists sort, filter and export it: its label, and what its switch calls it where that is something else. */
export const portText = (label: string, name: string): string => (name === label ? label : `${label} (${name})`);

/** The same to be looked at: a person at the rack reads the label, one at the console the name. */
export function PortWords({ label, name }: { readonly label: string; readonly name: string }) {
  return (
    <Mono title={name === label ? undefined : `${label}; the switch calls it ${name}`}>
      {label}
      {name !== label && <Faded> {name}</Faded>}
    </Mono>
  );
}
