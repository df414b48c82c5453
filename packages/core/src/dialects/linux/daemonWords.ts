/** Daemons of FRR that are off on Debian until they are asked for, and of which something is read here. */
export const SWITCHED = ['bgpd', 'ospfd', 'ospf6d', 'bfdd'] as const;
/** What else may be switched on: nothing that is read here is said to it. */
const OTHERS = 'zebra|staticd|ripd|ripngd|isisd|pimd|pim6d|ldpd|nhrpd|eigrpd|babeld|sharpd|pbrd|fabricd|vrrpd|pathd';
const EVERY = `${SWITCHED.join('|')}|${OTHERS}`;
/**
 * The shell that starts FRR reads the document as its own words, and puts the options of a daemon into a command: only
 * names and values are taken that are nothing but that. A daemon may be wrapped into another program: that is not.
 */
const ASSIGNED = new RegExp(
  `^((?:${EVERY})(?:_options|_instances)?|vtysh_enable|MAX_FDS|frr_profile)=(?:"([A-Za-z0-9 _.,:-]*)"|([A-Za-z0-9_.,:-]*))(?:\\s+#.*)?$`,
);
/** A word of FRR’s start. */
export interface Assigned {
  readonly name: string;
  readonly value: string;
}
export function assignedIn(line: string): Assigned | null {
  const [, name, quoted, plain] = ASSIGNED.exec(line.trim()) ?? [];
  return name === undefined ? null : { name, value: quoted ?? plain ?? '' };
}

/** Is a line more than a plain value, so that the shell that starts FRR may run it? */
export function runsInShell(line: string): boolean {
  const text = line.trim();
  return text !== '' && !text.startsWith('#') && assignedIn(text) === null;
}

/** Does a value switch a daemon off? */
export const isOff = (value: string | undefined): boolean => value === undefined || /^(no|0|)$/.test(value);
